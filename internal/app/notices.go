package app

import (
	"context"
	"time"

	"wardifex/internal/store"
)

// mostNotices is how many of the newest notices are shown.
const mostNotices = 50

// NoticeList is what somebody is told.
type NoticeList struct {
	Notices []store.Notice `json:"notices" doc:"Newest first"`
	Unread  int            `json:"unread"`
}

// Notices are what somebody is told, the newest first.
func (a *App) Notices(ctx context.Context, account int64) (NoticeList, error) {
	all, err := a.store.Notices(ctx, account, mostNotices)
	out := NoticeList{Notices: all}
	for _, n := range all {
		if n.ReadAt == nil {
			out.Unread++
		}
	}
	return out, err
}

// ReadNotices notes that somebody has seen the notices up to a number.
func (a *App) ReadNotices(ctx context.Context, account, upTo int64, now time.Time) error {
	return a.store.ReadNotices(ctx, account, upTo, now)
}

// tellOwner tells the owner of a booking what somebody else did with it.
func (a *App) tellOwner(ctx context.Context, b store.Booking, who Booker, words string, now time.Time) error {
	if b.AccountID == nil || *b.AccountID == who.Account {
		return nil
	}
	return a.store.AddNotice(ctx, store.Notice{AccountID: *b.AccountID, At: now, Words: words, Link: "/bookings"})
}
