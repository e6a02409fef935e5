package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/carryover"
	"wardifex/internal/core/civil"
)

// WayBack is a card, a backup or a file by which there is a way back, with its place.
type WayBack struct {
	ID        int64     `json:"id"`
	Kind      string    `json:"kind" enum:"memory card,host card,backup,build file,settings with secrets"`
	Name      string    `json:"name" minLength:"1" maxLength:"120"`
	Place     string    `json:"place" minLength:"1" maxLength:"200" staff:"only" doc:"Where it lies"`
	MachineID int64     `json:"machineId"`
	MadeOn    civil.Day `json:"madeOn" gorm:"-"`
	Made      time.Time `json:"-" gorm:"column:made_on"`
	Note      string    `json:"note" maxLength:"500"`
	AddedBy   string    `json:"addedBy"`
	AddedAt   time.Time `json:"addedAt"`
}

// WaysBack lists those of a machine, newest first.
func (s *Store) WaysBack(ctx context.Context, machineID int64) ([]WayBack, error) {
	out := []WayBack{}
	err := s.from(ctx).Table("way_backs").Where("machine_id = ? and ended_at is null", machineID).
		Order("made_on desc, id desc").Scan(&out).Error
	for i := range out {
		out[i].MadeOn = civil.Of(out[i].Made)
	}
	return out, err
}

// AddWayBack writes one down, and gives its number.
func (s *Store) AddWayBack(ctx context.Context, w WayBack) (id int64, err error) {
	err = s.from(ctx).Raw(`insert into way_backs (kind, name, place, machine_id, made_on, note, added_by, added_at)
		values (?, ?, ?, ?, ?, ?, ?, ?) returning id`, w.Kind, w.Name, w.Place, w.MachineID, dateAt(w.MadeOn), w.Note,
		w.AddedBy, w.AddedAt).Scan(&id).Error
	return id, err
}

// EndWayBack says that one is there no more; ErrNotFound where none is.
func (s *Store) EndWayBack(ctx context.Context, machineID, id int64, now time.Time) error {
	return gone(s.from(ctx).Exec("update way_backs set ended_at = ? where id = ? and machine_id = ? and ended_at is null",
		now, id,
		machineID))
}

// KeepWayBack undoes EndWayBack; ErrNotFound where the way back has not ended.
func (s *Store) KeepWayBack(ctx context.Context, machineID, id int64) error {
	return gone(s.from(ctx).Exec("update way_backs set ended_at = null where id = ? and machine_id = ? "+
		"and ended_at is not null", id, machineID))
}

// FlashDecision is whether the firmware of a machine is left alone, or what it waits for.
type FlashDecision struct {
	Answer    string    `json:"answer" enum:"leave it alone,wanted"`
	Reason    string    `json:"reason" minLength:"1" maxLength:"300"`
	Unlocks   string    `json:"unlocks" maxLength:"300" doc:"What it would make possible"`
	DecidedBy string    `json:"decidedBy"`
	DecidedAt time.Time `json:"decidedAt"`
}

// FlashDecision is the one of a machine that counts; nil where there is none.
func (s *Store) FlashDecision(ctx context.Context, machineID int64) (*FlashDecision, error) {
	var out []FlashDecision
	err := s.from(ctx).Table("flash_decisions").Where("machine_id = ? and ended_at is null", machineID).Scan(&out).Error
	if err != nil || len(out) == 0 {
		return nil, err
	}
	return &out[0], nil
}

// DecideFlash writes a decision over the one before.
func (s *Store) DecideFlash(ctx context.Context, machineID int64, d FlashDecision) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := s.EndFlashDecision(ctx, machineID, d.DecidedAt); err != nil {
			return err
		}
		return tx.Exec(`insert into flash_decisions (machine_id, answer, reason, unlocks, decided_by, decided_at)
			values (?, ?, ?, ?, ?, ?)`, machineID, d.Answer, d.Reason, d.Unlocks, d.DecidedBy, d.DecidedAt).Error
	})
}

// EndFlashDecision says that the decision of a machine counts no more, if there is one.
func (s *Store) EndFlashDecision(ctx context.Context, machineID int64, now time.Time) error {
	return s.from(ctx).Exec("update flash_decisions set ended_at = ? where machine_id = ? and ended_at is null", now,
		machineID).Error
}

// Versions are the two that a configuration is carried between.
type Versions struct{ Family, From, To string }

// CarryoverDecisions lists what was decided for the fleet between two versions.
func (s *Store) CarryoverDecisions(ctx context.Context, v Versions) ([]carryover.Decision, error) {
	out := []carryover.Decision{}
	return out, s.from(ctx).Table("carryover_decisions").Select(`section, word, action, to_word as "to"`).
		Where("family = ? and from_version = ? and to_version = ?", v.Family, v.From, v.To).Order("id").Scan(&out).Error
}

// DecideCarryover writes a decision down, over the one before.
func (s *Store) DecideCarryover(ctx context.Context, v Versions, d carryover.Decision, by string, now time.Time) error {
	return s.from(ctx).Exec(`insert into carryover_decisions
		(family, from_version, to_version, section, word, action, to_word, decided_by, decided_at)
		values (?, ?, ?, ?, ?, ?, ?, ?, ?)
		on conflict (family, from_version, to_version, section, word) do update set action = excluded.action,
		to_word = excluded.to_word, decided_by = excluded.decided_by, decided_at = excluded.decided_at`,
		v.Family, v.From, v.To, d.Section, d.Word, d.Action, d.To, by, now).Error
}

// BuildFile is the built file of a build.
type BuildFile struct {
	ID      int64     `json:"id"`
	Name    string    `json:"name"`
	Sha256  []byte    `json:"-" gorm:"column:sha256"`
	Hash    string    `json:"sha256" gorm:"-"`
	Bytes   int64     `json:"bytes"`
	AddedBy string    `json:"addedBy"`
	AddedAt time.Time `json:"addedAt"`
}

// BuildFiles lists the files of a build.
func (s *Store) BuildFiles(ctx context.Context, build int64) ([]BuildFile, error) {
	out := []BuildFile{}
	err := s.from(ctx).Table("build_files").Where("build_id = ?", build).Order("name, id").Scan(&out).Error
	for i := range out {
		if h, ok := hashOf(out[i].Sha256); ok {
			out[i].Hash = h.String()
		}
	}
	return out, err
}

// AddBuildFile keeps a file of a build.
func (s *Store) AddBuildFile(ctx context.Context, build int64, f BuildFile, content []byte) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		h, err := s.keepBytes(ctx, content)
		if err != nil {
			return err
		}
		return tx.Exec(`insert into build_files (build_id, name, sha256, bytes, added_by, added_at)
			values (?, ?, ?, ?, ?, ?)`,
			build, f.Name, h[:], len(content), f.AddedBy, f.AddedAt).Error
	})
}

// BuildFile reads a file of a build.
func (s *Store) BuildFile(ctx context.Context, build, id int64) (BuildFile, []byte, error) {
	var f BuildFile
	if err := s.from(ctx).Table("build_files").Where("build_id = ? and id = ?", build, id).Take(&f).Error; err != nil {
		return f, nil, found(err)
	}
	h, _ := hashOf(f.Sha256)
	content, err := s.File(ctx, h)
	return f, content, err
}
