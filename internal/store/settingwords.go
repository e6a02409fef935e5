package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm/clause"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/settings"
)

type settingWordRow struct {
	ID          int64
	Family      string
	Form        string
	Section     string
	Word        string
	Letter      string
	Item        int
	Part        int
	Calibration string
	Trait       string
	Place       string
	WrittenAs   string
	Choices     []byte `gorm:"type:jsonb"`
	ChangedBy   string
	ChangedAt   time.Time
}

func (settingWordRow) TableName() string { return "setting_words" }

// ShopWord is a word that the shop knows besides those of the program, or otherwise.
type ShopWord struct {
	ID int64 `json:"id"`
	settings.Word
	ChangedBy string    `json:"changedBy"`
	ChangedAt time.Time `json:"changedAt"`
}

// ShopWords lists the words of the shop.
func (s *Store) ShopWords(ctx context.Context) ([]ShopWord, error) {
	var rows []settingWordRow
	err := s.from(ctx).Order("family, form, section, word, id").Find(&rows).Error
	out := make([]ShopWord, len(rows))
	for i, r := range rows {
		out[i] = ShopWord{ID: r.ID, ChangedBy: r.ChangedBy, ChangedAt: r.ChangedAt, Word: settings.Word{
			Family: r.Family, Form: dialect.Form(r.Form), Section: r.Section, Word: r.Word, Letter: r.Letter, Item: r.Item,
			Part: r.Part, Calibration: calibration.Kind(r.Calibration), Trait: r.Trait, Of: r.Place, As: r.WrittenAs}}
		if err := json.Unmarshal(r.Choices, &out[i].Values); err != nil {
			return nil, fmt.Errorf("the choices of %s: %w", r.Word, err)
		}
	}
	return out, err
}

// SaveShopWord writes a word, over the one that says what the same stands for.
func (s *Store) SaveShopWord(ctx context.Context, w settings.Word, by string, now time.Time) error {
	choices := []byte("{}")
	if len(w.Values) > 0 {
		var err error
		if choices, err = json.Marshal(w.Values); err != nil {
			return err
		}
	}
	row := settingWordRow{Family: w.Family, Form: string(w.Form), Section: w.Section, Word: w.Word, Letter: w.Letter,
		Item: w.Item, Part: w.Part, Calibration: string(w.Calibration), Trait: w.Trait, Place: w.Of, WrittenAs: w.As,
		Choices: choices, ChangedBy: by, ChangedAt: now}
	return s.from(ctx).Clauses(clause.OnConflict{
		Columns: []clause.Column{{Name: "family"}, {Name: "form"}, {Name: "section"}, {Name: "word"}, {Name: "letter"},
			{Name: "item"}, {Name: "part"}},
		DoUpdates: clause.AssignmentColumns([]string{"calibration", "trait", "place", "written_as", "choices", "changed_by",
			"changed_at"}),
	}).Create(&row).Error
}

// DropShopWord takes a word of the shop away; ErrNotFound where there is none.
func (s *Store) DropShopWord(ctx context.Context, id int64) error {
	return gone(s.from(ctx).Exec("delete from setting_words where id = ?", id))
}
