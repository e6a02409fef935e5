package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/picture"
)

type photoRow struct {
	ID          int64
	WorkOrderID *int64
	StepKey     *string
	ReadingID   *int64
	FaultID     *int64
	ArrivalID   *int64
	Blob        string // the name of its file, from before files were kept in the database
	Jpeg        []byte // from before that
	Sha256      []byte
	SmallSha256 []byte
	Width       int
	Height      int
	TakenBy     string
	TakenAt     time.Time
}

func (photoRow) TableName() string { return "photos" }

// PhotoOf says what a picture belongs to; exactly one is set.
type PhotoOf struct {
	Order   int64
	Step    string // of the order
	Reading int64
	Fault   int64
	Arrival int64
}

// AddPhoto keeps a picture with what it belongs to.
func (s *Store) AddPhoto(ctx context.Context, of PhotoOf, k picture.Kept, by string, now time.Time) (int64, error) {
	row := photoRow{Width: k.Width, Height: k.Height, TakenBy: by, TakenAt: now}
	switch {
	case of.Reading != 0:
		row.ReadingID = &of.Reading
	case of.Fault != 0:
		row.FaultID = &of.Fault
	case of.Arrival != 0:
		row.ArrivalID = &of.Arrival
	default:
		row.WorkOrderID, row.StepKey = &of.Order, &of.Step
	}
	if err := s.keepPicture(ctx, &row, k); err != nil {
		return 0, err
	}
	err := s.from(ctx).Create(&row).Error
	return row.ID, err
}

func (s *Store) keepPicture(ctx context.Context, row *photoRow, k picture.Kept) error {
	whole, err := s.keepBytes(ctx, k.JPEG)
	if err != nil {
		return err
	}
	small, err := s.keepBytes(ctx, k.Small)
	row.Sha256, row.SmallSha256 = whole[:], small[:]
	return err
}

// ErrLostPicture is a picture whose file was lost before pictures were kept in the database.
var ErrLostPicture = errors.New("the file of this picture was lost before pictures were kept in the database")

// PhotoHash is the hash of a picture's file, whole or its small copy. Pictures of goods that came may show delivery
// notes: they are for staff, and ErrNotFound for others.
func (s *Store) PhotoHash(ctx context.Context, id int64, small, staff bool) (Hash, error) {
	var p photoRow
	err := s.from(ctx).Select("sha256", "small_sha256").Where("? or arrival_id is null", staff).First(&p, id).Error
	if err != nil {
		return Hash{}, found(err)
	}
	column := p.Sha256
	if small {
		column = p.SmallSha256
	}
	h, ok := hashOf(column)
	if !ok {
		return h, ErrLostPicture
	}
	return h, nil
}

// Photo loads a picture as JPEG, whole or its small copy.
func (s *Store) Photo(ctx context.Context, id int64, small bool) ([]byte, error) {
	h, err := s.PhotoHash(ctx, id, small, true)
	if err != nil {
		return nil, err
	}
	return file(s.from(ctx), h)
}

// photoIDs lists the pictures of readings or faults, by what they belong to.
func photoIDs(tx *gorm.DB, column string, of []int64) (map[int64][]int64, error) {
	out := map[int64][]int64{}
	if len(of) == 0 {
		return out, nil
	}
	var rows []struct{ ID, Belongs int64 }
	err := tx.Table("photos").Select("id, "+column+" as belongs").Where(column+" in ?", of).Order("id").Scan(&rows).Error
	for _, r := range rows {
		out[r.Belongs] = append(out[r.Belongs], r.ID)
	}
	return out, err
}

// PhotosOfReadings lists the pictures beside readings, by reading.
func (s *Store) PhotosOfReadings(ctx context.Context, readings []int64) (map[int64][]int64, error) {
	return photoIDs(s.from(ctx), "reading_id", readings)
}

// smallName is what the small copy of a picture's file ended in.
const smallName = "-small"

// NewestPhoto is the newest picture beside a reading of what is fitted to a machine; 0 where there is none.
func (s *Store) NewestPhoto(ctx context.Context, machineID int64) (id int64, err error) {
	err = s.from(ctx).Raw(`select coalesce(max(p.id), 0) from photos p join held_readings h on h.id = p.reading_id
		where h.machine_id = ? and h.removed_at is null`, machineID).Scan(&id).Error
	return id, err
}

// TakePhotosIn takes pictures into the database that an earlier version kept in a folder
// of files, or in their rows. It gives the numbers of those whose files are not there.
func (s *Store) TakePhotosIn(ctx context.Context, folder fs.FS) (lost []int64, err error) {
	var ids []int64
	if err := s.from(ctx).Model(&photoRow{}).Where("sha256 is null").Order("id").Pluck("id", &ids).Error; err != nil {
		return nil, err
	}
	for _, id := range ids {
		err := s.tx(ctx, func(tx *gorm.DB) error {
			ctx := s.within(ctx, tx)
			var row photoRow
			if err := tx.First(&row, id).Error; err != nil {
				return err
			}
			k, err := row.kept(folder)
			if err != nil {
				return err
			}
			if err := s.keepPicture(ctx, &row, k); err != nil {
				return err
			}
			set := map[string]any{"sha256": row.Sha256, "small_sha256": row.SmallSha256, "jpeg": nil}
			return tx.Model(&photoRow{}).Where("id = ?", id).Updates(set).Error
		})
		switch {
		case errors.Is(err, fs.ErrNotExist):
			lost = append(lost, id)
		case err != nil:
			return lost, fmt.Errorf("picture %d: %w", id, err)
		}
	}
	return lost, nil
}

// kept are the two sizes of a picture as an earlier version kept them.
func (r photoRow) kept(folder fs.FS) (picture.Kept, error) {
	if r.Blob == "" {
		k, err := picture.Take(r.Jpeg)
		k.JPEG = r.Jpeg // encoded when it was taken; not a second time
		return k, err
	}
	whole, err := fs.ReadFile(folder, r.Blob)
	if err != nil {
		return picture.Kept{}, err
	}
	small, err := fs.ReadFile(folder, r.Blob+smallName)
	return picture.Kept{JPEG: whole, Small: small}, err
}
