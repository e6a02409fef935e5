package store

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"time"

	"gocloud.dev/blob"
	"gorm.io/gorm"

	"wardifex/internal/picture"
)

// UsePhotos gives the store the place where pictures are kept, before Migrate.
func (s *Store) UsePhotos(b *blob.Bucket) { s.photos = b }

type photoRow struct {
	ID          int64
	WorkOrderID *int64
	StepKey     *string
	ReadingID   *int64
	FaultID     *int64
	Blob        string
	Jpeg        []byte // from before there was a blob store
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
}

const smallName = "-small"

// keep writes a picture's two sizes and gives the name they lie under.
func (s *Store) keep(ctx context.Context, k picture.Kept) (string, error) {
	if s.photos == nil {
		return "", errors.New("no place for pictures is set")
	}
	raw := make([]byte, 16)
	_, _ = rand.Read(raw)
	name := hex.EncodeToString(raw)
	options := &blob.WriterOptions{ContentType: "image/jpeg"}
	if err := s.photos.WriteAll(ctx, name, k.JPEG, options); err != nil {
		return "", fmt.Errorf("keeping a picture: %w", err)
	}
	return name, s.photos.WriteAll(ctx, name+smallName, k.Small, options)
}

// AddPhoto keeps a picture with a step of an open order, a reading, or a fault.
func (s *Store) AddPhoto(ctx context.Context, of PhotoOf, k picture.Kept, by string, now time.Time) (int64, error) {
	// Written before the row: a picture without a row harms nobody.
	name, err := s.keep(ctx, k)
	if err != nil {
		return 0, err
	}
	row := photoRow{Blob: name, Width: k.Width, Height: k.Height, TakenBy: by, TakenAt: now}
	err = s.tx(ctx, func(tx *gorm.DB) error {
		var n int64
		var err error
		switch {
		case of.Reading != 0:
			row.ReadingID = &of.Reading
			err = tx.Model(&readingRow{}).Where("id = ?", of.Reading).Count(&n).Error
		case of.Fault != 0:
			row.FaultID = &of.Fault
			err = tx.Model(&faultRow{}).Where("id = ?", of.Fault).Count(&n).Error
		default:
			if err := lockOrder(tx, of.Order); err != nil {
				return err
			}
			row.WorkOrderID, row.StepKey = &of.Order, &of.Step
			err = tx.Model(&stepRow{}).Where("work_order_id = ? and key = ?", of.Order, of.Step).Count(&n).Error
		}
		if err != nil {
			return err
		}
		if n == 0 {
			return ErrNotFound
		}
		return tx.Create(&row).Error
	})
	return row.ID, err
}

// Photo loads a picture as JPEG, whole or its small copy.
func (s *Store) Photo(ctx context.Context, id int64, small bool) ([]byte, error) {
	var p photoRow
	if err := s.db.WithContext(ctx).First(&p, id).Error; err != nil {
		return nil, found(err)
	}
	name := p.Blob
	if small {
		name += smallName
	}
	return s.photos.ReadAll(ctx, name)
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
	return photoIDs(s.db.WithContext(ctx), "reading_id", readings)
}

// movePhotos takes pictures that lie in the database out into the blob store.
func (s *Store) movePhotos(ctx context.Context) error {
	for {
		var rows []photoRow
		if err := s.db.WithContext(ctx).Where("blob = ''").Order("id").Limit(20).Find(&rows).Error; err != nil || len(rows) == 0 {
			return err
		}
		for _, r := range rows {
			k, err := picture.Take(r.Jpeg)
			if err != nil {
				return fmt.Errorf("photo %d in the database: %w", r.ID, err)
			}
			k.JPEG = r.Jpeg // encoded when it was taken; not a second time
			name, err := s.keep(ctx, k)
			if err != nil {
				return err
			}
			if err := s.db.WithContext(ctx).Model(&photoRow{}).Where("id = ?", r.ID).Updates(map[string]any{"blob": name, "jpeg": nil}).Error; err != nil {
				return err
			}
		}
	}
}
