package shop_test

import (
	"reflect"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/shop"
)

func TestCheck(t *testing.T) {
	hours := func(day time.Weekday, from, to string) shop.Hours { return shop.Hours{Day: day, From: from, To: to} }
	for name, c := range map[string]struct {
		change func(*shop.Settings)
		want   string
	}{
		"as they come":        {func(*shop.Settings) {}, ""},
		"a week from Tuesday": {func(s *shop.Settings) { s.WeekStart = "tuesday" }, "monday, sunday or saturday"},
		"the whole day": {func(s *shop.Settings) {
			s.Opening = []shop.Hours{hours(1, "00:00", "24:00")}
		}, ""},
		"one minute": {func(s *shop.Settings) {
			s.Opening = []shop.Hours{hours(1, "09:00", "09:01")}
		}, ""},
		"no minute": {func(s *shop.Settings) { s.Opening = []shop.Hours{hours(1, "09:00", "09:00")} },
			"is not before"},
		"past midnight": {func(s *shop.Settings) { s.Opening = []shop.Hours{hours(1, "22:00", "02:00")} },
			"next day"},
		"an hour that is none": {func(s *shop.Settings) { s.Opening = []shop.Hours{hours(1, "9:00", "12:00")} },
			"such as 09:30"},
		"past the end of the day": {func(s *shop.Settings) { s.Opening = []shop.Hours{hours(1, "09:00", "24:01")} },
			"such as 09:30"},
		"the eighth day": {func(s *shop.Settings) { s.Opening = []shop.Hours{hours(7, "09:00", "12:00")} },
			"no day"},
		"one after the other": {func(s *shop.Settings) {
			s.Opening = []shop.Hours{hours(1, "12:00", "14:00"), hours(1, "09:00", "12:00")}
		}, ""},
		"over each other": {func(s *shop.Settings) {
			s.Opening = []shop.Hours{hours(1, "11:59", "14:00"), hours(1, "09:00", "12:00")}
		}, "overlap"},
		"a name over two lines": {func(s *shop.Settings) {
			s.Name = "Net\x00loft"
		}, "the shop's name"},
	} {
		t.Run(name, func(t *testing.T) {
			s := shop.Usual()
			c.change(&s)
			got, err := s.Check()
			if c.want == "" {
				if err != nil {
					t.Error(err)
				}
				if again, err := got.Check(); err != nil || !reflect.DeepEqual(again, got) {
					t.Errorf("checked twice: %+v, then %+v, %v", got, again, err)
				}
			} else if err == nil || !strings.Contains(err.Error(), c.want) {
				t.Errorf("got %v; want %q", err, c.want)
			}
		})
	}
}

func TestOpen(t *testing.T) {
	s := shop.Usual()
	s.Opening = []shop.Hours{{Day: time.Friday, From: "09:00", To: "17:30"}}
	friday := time.Date(2026, 11, 27, 0, 0, 0, 0, time.UTC)
	for at, want := range map[string]bool{"8h59m": false, "9h": true, "17h29m": true, "17h30m": false, "33h": false} {
		after, _ := time.ParseDuration(at)
		if open, told := s.Open(friday.Add(after)); open != want || !told {
			t.Errorf("%s after midnight: open %v, told %v", at, open, told)
		}
	}
	if _, told := shop.Usual().Open(friday); told {
		t.Error("a shop that has not told its hours tells them")
	}
}
