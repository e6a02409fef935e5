package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/schedule"
)

// Booking is a booking as it is kept: once or again and again.
type Booking struct {
	ID          int64
	MachineID   int64
	AccountID   *int64
	Who         string
	What        string
	Starts      time.Time
	Ends        time.Time
	Attended    bool
	Rule        string               // how it repeats, as an RRULE; empty where it does not
	Zone        string               // by whose clock
	LeftOut     []time.Time          `gorm:"serializer:json"`
	Need        maintenance.PrintJob `gorm:"serializer:json"`
	UID         string               `gorm:"column:uid"`
	Version     int
	MadeBy      string
	MadeAt      time.Time
	CancelledAt *time.Time
	CancelledBy string
	Offer       *ProposedMove `gorm:"serializer:json"`
}

// ProposedMove is another machine or time for a booking, which its owner takes or not.
type ProposedMove struct {
	Machine int64     `json:"machine"`
	Begin   time.Time `json:"begin" doc:"Begin of the time that it is for, as booked"`
	schedule.Span
	By  string    `json:"by"`
	At  time.Time `json:"at"`
	Why string    `json:"why"`
}

// AddBooking writes a booking down, and gives its number.
func (s *Store) AddBooking(ctx context.Context, b Booking) (int64, error) {
	if b.LeftOut == nil {
		b.LeftOut = []time.Time{}
	}
	b.Version = 1
	err := s.from(ctx).Create(&b).Error
	return b.ID, err
}

// SaveBooking writes a booking over its version; ErrChanged when it is of another by now.
func (s *Store) SaveBooking(ctx context.Context, b Booking) error {
	version := b.Version
	b.Version++
	written := s.from(ctx).Model(&Booking{}).Where("id = ? and version = ?", b.ID, version).
		Select("*").Omit("id", "made_by", "made_at").Updates(&b)
	if written.Error == nil && written.RowsAffected == 0 {
		return ErrChanged
	}
	return written.Error
}

// BookingOf is the booking of a number; ErrNotFound where there is none, or it was cancelled.
func (s *Store) BookingOf(ctx context.Context, id int64) (Booking, error) {
	var b Booking
	err := s.from(ctx).Where("cancelled_at is null").First(&b, id).Error
	return b, found(err)
}

// Bookings are those that may take place within a window, of some machines or of all: those that
// repeat as far as they begin before its end.
func (s *Store) Bookings(ctx context.Context, within schedule.Span, machines ...int64) ([]Booking, error) {
	q := s.from(ctx).Where("cancelled_at is null and starts < ? and (ends > ? or rule <> '')", within.To, within.From)
	if len(machines) > 0 {
		q = q.Where("machine_id in ?", machines)
	}
	var out []Booking
	err := q.Order("starts, id").Find(&out).Error
	return out, err
}

// BookingsOf are those of an account that are not over or repeat, in their order.
func (s *Store) BookingsOf(ctx context.Context, account int64, after time.Time) ([]Booking, error) {
	var out []Booking
	err := s.from(ctx).Where("cancelled_at is null and account_id = ? and (ends > ? or rule <> '')", account, after).
		Order("starts, id").Find(&out).Error
	return out, err
}

// Feed is a calendar that is read from outside, for a machine.
type Feed struct {
	ID        int64      `json:"id"`
	URL       string     `json:"url" gorm:"column:url"`
	MachineID int64      `json:"machineId"`
	Name      string     `json:"name"`
	Attended  bool       `json:"attended"`
	AddedBy   string     `json:"addedBy"`
	AddedAt   time.Time  `json:"addedAt"`
	ReadAt    *time.Time `json:"readAt,omitempty"`
	Says      string     `json:"says" doc:"What came of reading it last"`
	EndedAt   *time.Time `json:"-"`
}

// TableName is that of the table.
func (Feed) TableName() string { return "calendar_feeds" }

// FeedTime is a time at which something takes place by a feed.
type FeedTime struct {
	FeedID int64
	What   string
	Starts time.Time
	Ends   time.Time
}

// Feeds are those that are read.
func (s *Store) Feeds(ctx context.Context) ([]Feed, error) {
	out := []Feed{}
	err := s.from(ctx).Where("ended_at is null").Order("id").Find(&out).Error
	return out, err
}

// AddFeed writes a feed down, and gives its number.
func (s *Store) AddFeed(ctx context.Context, f Feed) (int64, error) {
	err := s.from(ctx).Create(&f).Error
	return f.ID, err
}

// EndFeed ends a feed, and forgets what it said; ErrNotFound where none is read.
func (s *Store) EndFeed(ctx context.Context, id int64, at time.Time) error {
	if err := gone(s.from(ctx).Model(&Feed{}).Where("id = ? and ended_at is null", id).Update("ended_at",
		at)); err != nil {
		return err
	}
	return s.from(ctx).Where("feed_id = ?", id).Delete(&FeedTime{}).Error
}

// FeedSaid keeps what a feed said, in place of what it said before; with times nil what it said
// before stays.
func (s *Store) FeedSaid(ctx context.Context, id int64, times []FeedTime, says string, at time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		still := tx.Model(&Feed{}).Where("id = ? and ended_at is null", id).Updates(map[string]any{"read_at": at,
			"says": says})
		if still.Error != nil || still.RowsAffected == 0 || times == nil {
			return still.Error
		}
		if err := tx.Where("feed_id = ?", id).Delete(&FeedTime{}).Error; err != nil {
			return err
		}
		if len(times) == 0 {
			return nil
		}
		return tx.CreateInBatches(times, 500).Error
	})
}

// FeedTimes are those of all feeds within a window.
func (s *Store) FeedTimes(ctx context.Context, within schedule.Span) ([]FeedTime, error) {
	var out []FeedTime
	err := s.from(ctx).Where("starts < ? and ends > ?", within.To, within.From).Order("starts").Find(&out).Error
	return out, err
}

// CalendarLink is by what a person's calendar is read from outside.
type CalendarLink struct {
	ID        int64      `json:"id"`
	AccountID int64      `json:"-"`
	Hash      []byte     `json:"-"`
	MadeAt    time.Time  `json:"madeAt"`
	EndedAt   *time.Time `json:"-"`
}

// CalendarLinks are those of an account that have not ended.
func (s *Store) CalendarLinks(ctx context.Context, account int64) ([]CalendarLink, error) {
	out := []CalendarLink{}
	err := s.from(ctx).Where("account_id = ? and ended_at is null", account).Order("id").Find(&out).Error
	return out, err
}

// AddCalendarLink writes a link down by the hash of its secret, and gives its number.
func (s *Store) AddCalendarLink(ctx context.Context, account int64, secret string, at time.Time) (int64, error) {
	link := CalendarLink{AccountID: account, Hash: secretHash(secret), MadeAt: at}
	err := s.from(ctx).Create(&link).Error
	return link.ID, err
}

// CalendarLinkOf finds the link of a secret; ErrNotFound where there is none that has not ended.
func (s *Store) CalendarLinkOf(ctx context.Context, secret string) (CalendarLink, error) {
	var link CalendarLink
	err := s.from(ctx).Where("hash = ? and ended_at is null", secretHash(secret)).First(&link).Error
	return link, found(err)
}

// EndCalendarLinks ends every link of an account.
func (s *Store) EndCalendarLinks(ctx context.Context, account int64, at time.Time) error {
	return s.from(ctx).Model(&CalendarLink{}).Where("account_id = ? and ended_at is null", account).
		Update("ended_at", at).Error
}

// EndCalendarLink ends a link of an account; ErrNotFound where it has none of this number.
func (s *Store) EndCalendarLink(ctx context.Context, account, id int64, at time.Time) error {
	return gone(s.from(ctx).Model(&CalendarLink{}).Where("id = ? and account_id = ? and ended_at is null", id, account).
		Update("ended_at", at))
}
