package store

import (
	"context"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/settings"
)

// SettingsFile is a text of settings on record, of a machine, of a card or of a build. Its secrets
// are masked.
type SettingsFile struct {
	ID       int64     `json:"id"`
	Place    string    `json:"place"`
	Name     string    `json:"name"`
	Family   string    `json:"family"`
	Machine  *int64    `json:"machineId,omitempty" gorm:"column:machine_id"`
	Part     *int64    `json:"partId,omitempty"    gorm:"column:part_id" doc:"Of a card"`
	Build    *int64    `json:"buildId,omitempty"   gorm:"column:build_id"`
	SHA256   []byte    `json:"-" gorm:"column:sha256"`
	Bytes    int64     `json:"bytes"`
	Secrets  int       `json:"secrets"  doc:"How many were masked before it was kept"`
	Original string    `json:"original" staff:"only" doc:"Where the file is that holds them"`
	TakenAt  time.Time `json:"takenAt"`
	AddedBy  string    `json:"addedBy"`
	AddedAt  time.Time `json:"addedAt"`
}

// SettingsFor is a settings file with a machine that it counts for.
type SettingsFor struct {
	SettingsFile
	For int64 // machine
}

// countsFor are the settings files that count, with the machines that each counts for: its own, those
// that the card is in, those that run the build.
const countsFor = `select s.*, m.id as for from settings_files s join machines m on m.id = s.machine_id
	where s.ended_at is null and m.retired_at is null
	union all select s.*, f.machine_id from settings_files s
	join fittings f on f.part_id = s.part_id and f.removed_at is null where s.ended_at is null
	union all select distinct s.*, f.machine_id from settings_files s join build_runs u on u.build_id = s.build_id
	join fittings f on f.id = u.fitting_id and f.removed_at is null where s.ended_at is null`

// SettingsFiles lists the settings files that count for a machine, or for every machine where it is 0.
func (s *Store) SettingsFiles(ctx context.Context, machineID int64) ([]SettingsFor, error) {
	out := []SettingsFor{}
	q := s.from(ctx).Table("(" + countsFor + ") s")
	if machineID != 0 {
		q = q.Where("s.for = ?", machineID)
	}
	return out, q.Order("s.for, s.id").Scan(&out).Error
}

// SettingsFile loads one that counts.
func (s *Store) SettingsFile(ctx context.Context, id int64) (SettingsFile, error) {
	var out SettingsFile
	err := s.from(ctx).Table("settings_files").Where("id = ? and ended_at is null", id).Take(&out).Error
	return out, found(err)
}

// SettingsOfBuild lists those of a build.
func (s *Store) SettingsOfBuild(ctx context.Context, build int64) ([]SettingsFile, error) {
	out := []SettingsFile{}
	return out, s.from(ctx).Table("settings_files").Where("build_id = ? and ended_at is null",
		build).Order("name, id").Scan(&out).Error
}

// SettingsOfPart lists those of a card.
func (s *Store) SettingsOfPart(ctx context.Context, part int64) ([]SettingsFile, error) {
	out := []SettingsFile{}
	return out, s.from(ctx).Table("settings_files").Where("part_id = ? and ended_at is null",
		part).Order("id").Scan(&out).Error
}

// AddSettingsFile keeps a text of settings; one of the same name and place ends.
func (s *Store) AddSettingsFile(ctx context.Context, f SettingsFile, text string) (id int64, err error) {
	err = s.tx(ctx, func(tx *gorm.DB) error {
		h, err := s.keepBytes(ctx, []byte(text))
		if err != nil {
			return err
		}
		if err := tx.Exec(`update settings_files set ended_at = ?
			where ended_at is null and place = ? and lower(name) = lower(?)
			and machine_id is not distinct from ? and part_id is not distinct from ? and build_id is not distinct from ?`,
			f.AddedAt, f.Place, f.Name, f.Machine, f.Part, f.Build).Error; err != nil {
			return err
		}
		return tx.Raw(`insert into settings_files (place, name, family, machine_id, part_id, build_id, sha256, bytes, secrets,
			original, taken_at, added_by, added_at, masked) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) returning id`,
			f.Place, f.Name, f.Family, f.Machine, f.Part, f.Build, h[:], len(text), f.Secrets, f.Original, f.TakenAt, f.AddedBy,
			f.AddedAt, settings.MaskVersion).Scan(&id).Error
	})
	return id, err
}

// MaskSettings masks texts again that an older version masked, the ended ones among them, and gives in how
// many it found secrets that are there no more.
func (s *Store) MaskSettings(ctx context.Context) (found int, err error) {
	err = s.tx(ctx, func(tx *gorm.DB) error {
		var files []SettingsFile
		err := tx.Raw("select * from settings_files where masked < ? order by id for update", settings.MaskVersion).
			Scan(&files).Error
		if err != nil {
			return err
		}
		for _, f := range files {
			text, err := s.SettingsText(ctx, f)
			if err != nil {
				return err
			}
			masked, n := settings.Mask(text)
			h := f.SHA256
			if n > 0 {
				found++
				kept, err := s.keepBytes(ctx, []byte(masked))
				if err != nil {
					return err
				}
				h = kept[:]
			}
			if err := tx.Exec("update settings_files set sha256 = ?, bytes = ?, secrets = secrets + ?, masked = ? where id = ?",
				h, len(masked), n, settings.MaskVersion, f.ID).Error; err != nil {
				return err
			}
		}
		return nil
	})
	return found, err
}

// EndSettingsFile says that a settings file counts no more; ErrNotFound where none does.
func (s *Store) EndSettingsFile(ctx context.Context, id int64, now time.Time) error {
	return gone(s.from(ctx).Exec("update settings_files set ended_at = ? where id = ? and ended_at is null", now, id))
}

// KeepSettingsFile undoes EndSettingsFile; ErrNotFound where the file has not ended, or where another of its name and
// place has taken over.
func (s *Store) KeepSettingsFile(ctx context.Context, id int64) error {
	return gone(s.from(ctx).Exec(`update settings_files f set ended_at = null where id = ? and ended_at is not null
		and not exists (select 1 from settings_files o where o.ended_at is null and o.place = f.place
			and lower(o.name) = lower(f.name) and o.machine_id is not distinct from f.machine_id
			and o.part_id is not distinct from f.part_id and o.build_id is not distinct from f.build_id)`, id))
}

// SettingsText is the text of a settings file, as it was kept.
func (s *Store) SettingsText(ctx context.Context, f SettingsFile) (string, error) {
	h, ok := hashOf(f.SHA256)
	if !ok {
		return "", ErrNotFound
	}
	text, err := s.File(ctx, h)
	return string(text), err
}

// mostTexts is how many texts are loaded by one query.
const mostTexts = 200

// SettingsTexts are the texts of settings files, as they were kept, by the number of the file.
func (s *Store) SettingsTexts(ctx context.Context, files []SettingsFor) (map[int64]string, error) {
	out, by := map[int64]string{}, map[Hash][]int64{}
	var hashes [][]byte
	for _, f := range files {
		h, ok := hashOf(f.SHA256)
		if !ok {
			return nil, ErrNotFound
		}
		if by[h] == nil {
			hashes = append(hashes, f.SHA256)
		}
		by[h] = append(by[h], f.ID)
	}
	for some := range slices.Chunk(hashes, mostTexts) {
		var rows []struct{ Sha256, Content []byte }
		err := s.from(ctx).Raw(`select sha256, string_agg(content, ''::bytea order by n) as content from file_chunks
			where sha256 in ? group by sha256`, some).Scan(&rows).Error
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			h, _ := hashOf(r.Sha256)
			for _, id := range by[h] {
				out[id] = string(r.Content)
			}
		}
	}
	return out, nil
}

// SettingsBeside lists the settings files of one place and owner as a file has them.
func (s *Store) SettingsBeside(ctx context.Context, f SettingsFile) ([]SettingsFor, error) {
	out := []SettingsFor{}
	return out, s.from(ctx).Table("settings_files").Where(`ended_at is null and place = ?
		and machine_id is not distinct from ? and part_id is not distinct from ? and build_id is not distinct from ?`,
		f.Place, f.Machine, f.Part, f.Build).Order("id").Scan(&out).Error
}

// CardPlace is a machine that a card is or was in.
type CardPlace struct {
	MachineID int64      `json:"machineId"`
	Machine   string     `json:"machine"`
	From      time.Time  `json:"from"`
	To        *time.Time `json:"to,omitempty" doc:"Absent while it is in"`
}

// CardPlaces lists the machines that a card was in, newest first.
func (s *Store) CardPlaces(ctx context.Context, part int64) ([]CardPlace, error) {
	out := []CardPlace{}
	return out, s.from(ctx).Table("fittings f").Joins("join machines m on m.id = f.machine_id").
		Select(`f.machine_id, m.name as machine, f.fitted_at as "from", f.removed_at as "to"`).
		Where("f.part_id = ?", part).Order("f.fitted_at desc").Scan(&out).Error
}
