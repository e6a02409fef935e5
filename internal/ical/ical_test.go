package ical_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/schedule"
	"wardifex/internal/ical"
)

func zone(t testing.TB, name string) *time.Location {
	t.Helper()
	in, err := time.LoadLocation(name)
	if err != nil {
		t.Fatal(err)
	}
	return in
}

// Source: RFC 5545, 3.8.5.3, whose examples begin on 2 September 1997 at 09:00 in New York, if they
// do not say otherwise. The days are those that it lists, the first of them where it goes on.
func TestTheExamplesOfTheStandard(t *testing.T) {
	t.Parallel()
	for rule, c := range map[string]struct {
		begin, want string
	}{
		"FREQ=DAILY;COUNT=10":                      {"", "0902 0903 0904 0905 0906 0907 0908 0909 0910 0911"},
		"FREQ=DAILY;INTERVAL=10;COUNT=5":           {"", "0902 0912 0922 1002 1012"},
		"FREQ=DAILY;INTERVAL=2":                    {"", "0902 0904 0906 0908 0910 …"},
		"FREQ=WEEKLY;COUNT=10":                     {"", "0902 0909 0916 0923 0930 1007 1014 1021 1028 1104"},
		"FREQ=WEEKLY;INTERVAL=2;WKST=SU":           {"", "0902 0916 0930 1014 1028 1111 1125 …"},
		"FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH": {"", "0902 0904 0909 0911 0916 0918 0923 0925 0930 1002"},
		"FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR": {"0901", "0901 0903 0905 0915 0917 " +
			"0919 0929 1001 1003 1013 1015 1017 1027 1029 1031 1110 1112 1114 1124 1126 1128 1208 1210 1212 1222"},
		"FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH": {"", "0902 0904 0916 0918 0930 1002 1014 1016"},
		"FREQ=MONTHLY;COUNT=10;BYDAY=1FR":                    {"0905", "0905 1003 1107 1205 …"},
		"FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU":    {"0907", "0907 0928 1102 1130 …"},
		"FREQ=MONTHLY;COUNT=6;BYDAY=-2MO":                    {"0922", "0922 1020 1117 1222 …"},
		"FREQ=MONTHLY;BYMONTHDAY=-3":                         {"0928", "0928 1029 1128 1229 …"},
		"FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15":              {"", "0902 0915 1002 1015 1102 1115 1202 1215 …"},
		"FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1":              {"0930", "0930 1001 1031 1101 1130 1201 1231 …"},
		"FREQ=MONTHLY;BYDAY=TU;INTERVAL=2":                   {"", "0902 0909 0916 0923 0930 1104 1111 1118 1125 …"},
		"FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13": {"0913", "0913 1011 1108 1213 …"},
		"FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3":     {"0904", "0904 1007 1106"},
		"FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2":      {"0929", "0929 1030 1127 1230 …"},
		"FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO": {"0805", "0805 0810 0819 0824"},
		"FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU": {"0805", "0805 0817 0819 0831"},
		"FREQ=DAILY;UNTIL=19970904T000000Z;BYMONTH=9":        {"", "0902 0903"},
	} {
		in := zone(t, "America/New_York")
		if c.begin == "" {
			c.begin = "0902"
		}
		from, err := time.ParseInLocation("20060102 15:04", "1997"+c.begin+" 09:00", in)
		if err != nil {
			t.Fatal(err)
		}
		e := ical.Event{Span: schedule.Span{From: from, To: from.Add(time.Hour)}, Rule: rule}
		times, _, err := e.Times(schedule.Span{From: from, To: time.Date(1998, 1, 1, 0, 0, 0, 0, in)})
		if err != nil {
			t.Errorf("%s: %v", rule, err)
			continue
		}
		var got []string
		for _, at := range times {
			if at.From.Hour() != 9 { // also when summer time has ended, on 26 October
				t.Errorf("%s: at %v", rule, at.From)
			}
			got = append(got, at.From.Format("0102"))
		}
		list, open := strings.CutSuffix(c.want, " …")
		if is := strings.Join(got, " "); is != list && !(open && strings.HasPrefix(is, list)) {
			t.Errorf("%s: %v; want %s", rule, is, c.want)
		}
	}
}

func calendar(events ...string) string {
	text := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\n"
	for _, e := range events {
		text += "BEGIN:VEVENT\r\n" + e + "\r\nEND:VEVENT\r\n"
	}
	return text + "END:VCALENDAR\r\n"
}

// What is read of an event, in each form that the standard gives a time; and what is refused of it
// alone, the next one being read.
func TestReadEvents(t *testing.T) {
	t.Parallel()
	shop := zone(t, "Europe/Oslo")
	const begin = "UID:a\r\nSUMMARY:Large\\, in one piece\r\n"
	for name, c := range map[string]struct{ event, from, to, problem string }{
		"in UTC": {"DTSTART:20261127T090000Z\r\nDTEND:20261127T100000Z", "27 10:00 +0100",
			"27 11:00 +0100", ""},
		"on the shop's clock": {"DTSTART:20261127T090000\r\nDTEND:20261127T100000", "27 09:00 +0100",
			"27 10:00 +0100", ""},
		"in a zone": {"DTSTART;TZID=America/New_York:20261127T090000\r\nDURATION:PT90M", "27 15:00 +0100",
			"27 16:30 +0100", ""},
		"a day":     {"DTSTART;VALUE=DATE:20261127", "27 00:00 +0100", "28 00:00 +0100", ""},
		"two weeks": {"DTSTART:20261101T090000Z\r\nDURATION:P2W", "01 10:00 +0100", "15 10:00 +0100", ""},
		"over two lines": {"DTSTART:20261127T0900\r\n 00Z\r\nDTEND:20261127T100000Z", "27 10:00 +0100",
			"27 11:00 +0100", ""},
		"without a begin":     {"DTEND:20261127T100000Z", "", "", "DTSTART"},
		"without an end":      {"DTSTART:20261127T090000Z", "", "", "DTEND"},
		"it ends first":       {"DTSTART:20261127T090000Z\r\nDTEND:20261127T080000Z", "", "", "before it begins"},
		"a zone of its own":   {"DTSTART;TZID=Netloft:20261127T090000\r\nDURATION:PT1H", "", "", "time zone"},
		"a word for a time":   {"DTSTART:tomorrow\r\nDURATION:PT1H", "", "", "is no time"},
		"a word for a length": {"DTSTART:20261127T090000Z\r\nDURATION:long", "", "", "no duration"},
		"a rule of a word": {"DTSTART:20261127T090000Z\r\nDURATION:PT1H\r\nRRULE:often", "", "",
			"repeats cannot be read"},
		"every second": {"DTSTART:20261127T090000Z\r\nDURATION:PT1H\r\nRRULE:FREQ=SECONDLY", "", "",
			"more than once a day"},
		"twice a day": {"DTSTART:20261127T090000Z\r\nDURATION:PT1H\r\nRRULE:FREQ=DAILY;BYHOUR=9,12", "", "",
			"more than once a day"},
		"a line without value":        {"DTSTART:20261127T090000Z\r\nDURATION:PT1H\r\nNONSENSE", "", "", "NAME:VALUE"},
		"before there were computers": {"DTSTART:00010101T090000Z\r\nDURATION:PT1H", "", "", "before 1970"},
	} {
		t.Run(name, func(t *testing.T) {
			good := "UID:b\r\nDTSTART:20261128T090000Z\r\nDURATION:PT1H"
			events, problems, err := ical.Read(strings.NewReader(calendar(begin+c.event, good)), shop)
			if err != nil || len(events) == 0 || events[len(events)-1].UID != "b" {
				t.Fatalf("%+v, %v, %v: the other event is not read", events, problems, err)
			}
			if c.problem != "" {
				if len(problems) != 1 || problems[0].Line != 3 || !strings.Contains(problems[0].Says, c.problem) {
					t.Errorf("%+v; want %q", problems, c.problem)
				}
				return
			}
			const form = "02 15:04 -0700"
			e := events[0]
			if got := e.From.In(shop).Format(form); got != c.from || len(problems) > 0 {
				t.Errorf("from %s, %v; want %s", got, problems, c.from)
			}
			if got := e.To.In(shop).Format(form); got != c.to || e.Summary != "Large, in one piece" {
				t.Errorf("to %s, %q; want %s", got, e.Summary, c.to)
			}
		})
	}
	for name, text := range map[string]string{"nothing": "", "a table": "a,b\r\n1,2\r\n",
		"more than is read":      "BEGIN:VCALENDAR\r\n" + strings.Repeat("X", ical.MostBytes),
		"more events than taken": calendar(make([]string, 5001)...)} {
		if _, _, err := ical.Read(strings.NewReader(text), shop); err == nil {
			t.Errorf("%s: taken", name)
		}
	}
}

// A rule without an end is told as far as the window goes, also one of which no day ever comes; an
// occurrence that was moved or left out is.
func TestWhatRepeats(t *testing.T) {
	t.Parallel()
	shop := zone(t, "Europe/Oslo")
	read := func(events ...string) []ical.Event {
		t.Helper()
		out, problems, err := ical.Read(strings.NewReader(calendar(events...)), shop)
		if err != nil || len(problems) > 0 {
			t.Fatal(problems, err)
		}
		return out
	}
	window := schedule.Span{From: time.Date(2026, 10, 1, 0, 0, 0, 0, shop), To: time.Date(2026, 11, 1, 0, 0, 0, 0, shop)}
	weekly := "UID:a\r\nDTSTART;TZID=Europe/Oslo:20200107T180000\r\nDURATION:PT2H\r\nRRULE:FREQ=WEEKLY\r\n" +
		"EXDATE;TZID=Europe/Oslo:20261013T180000"
	moved := "UID:a\r\nRECURRENCE-ID;TZID=Europe/Oslo:20261020T180000\r\n" +
		"DTSTART;TZID=Europe/Oslo:20261021T190000\r\nDURATION:PT1H"
	gone := "UID:a\r\nRECURRENCE-ID;TZID=Europe/Oslo:20261027T180000\r\n" +
		"DTSTART;TZID=Europe/Oslo:20261027T180000\r\nDURATION:PT1H\r\n" +
		"STATUS:CANCELLED"
	var got []string
	all, problems := ical.Expand(read(weekly, moved, gone), window)
	for _, o := range all {
		got = append(got, o.At.From.In(shop).Format("02 15:04"))
	}
	if want := "[06 18:00 21 19:00]"; fmt.Sprint(got) != want || len(problems) > 0 {
		t.Errorf("%v, %v; want %s", got, problems, want)
	}
	for name, rule := range map[string]string{"a day that never comes": "FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30",
		"from long ago": "FREQ=DAILY", "an end and a count": "FREQ=DAILY;COUNT=1000000;UNTIL=20991231T000000Z"} {
		began := time.Now()
		e := ical.Event{Rule: rule, Span: schedule.Span{From: time.Date(1970, 1, 1, 9, 0, 0, 0, shop),
			To: time.Date(1970, 1, 1, 10, 0, 0, 0, shop)}}
		times, _, err := e.Times(window)
		if took := time.Since(began); err != nil || took > 5*time.Second {
			t.Errorf("%s: %v, %v", name, err, took)
		}
		if want := map[bool]int{true: 31, false: 0}[name != "a day that never comes"]; len(times) != want {
			t.Errorf("%s: %d times; want %d", name, len(times), want)
		}
	}
	// 26 March 2026 to 29: the clocks go on in the night to the 29th, and back on 25 October.
	e := ical.Event{Rule: "FREQ=DAILY", Span: schedule.Span{From: time.Date(2026, 3, 27, 2, 30, 0, 0, shop),
		To: time.Date(2026, 3, 27, 3, 30, 0, 0, shop)}}
	for _, days := range [][2]time.Time{{time.Date(2026, 3, 28, 0, 0, 0, 0, shop), time.Date(2026, 3, 31, 0, 0, 0, 0,
		shop)},
		{time.Date(2026, 10, 24, 0, 0, 0, 0, shop), time.Date(2026, 10, 27, 0, 0, 0, 0, shop)}} {
		times, _, err := e.Times(schedule.Span{From: days[0], To: days[1]})
		if err != nil || len(times) != 3 {
			t.Errorf("over a change of the clocks: %v, %v", times, err)
		}
	}
}

// Rules that mean no day by the standard are refused before they are worked out; whatever a calendar holds, it takes no
// longer than its steps, and the events after are read.
func TestRulesThatHurt(t *testing.T) {
	t.Parallel()
	shop := zone(t, "Europe/Oslo")
	for _, rule := range []string{"FREQ=MONTHLY;BYDAY=-6MO", "FREQ=MONTHLY;BYDAY=6MO", "FREQ=MONTHLY;BYDAY=53FR",
		"FREQ=YEARLY;BYMONTH=3;BYDAY=-9SU", "FREQ=YEARLY;BYWEEKNO=3;BYDAY=2SU", "FREQ=WEEKLY;BYDAY=2TU",
		"FREQ=DAILY;BYDAY=-1TU", "FREQ=MONTHLY;BYWEEKNO=3", "FREQ=WEEKLY;BYYEARDAY=3", "FREQ=WEEKLY;BYMONTHDAY=3",
		"FREQ=YEARLY;BYEASTER=1", "FREQ=MONTHLY;BYDAY=", "FREQ=MONTHLY;BYDAY=MO;BYSETPOS=999", "BYDAY=MO", "FREQ=",
		"FREQ=DAILY;INTERVAL=99999999999999999999"} {
		if err := ical.CheckRule(rule); err == nil {
			t.Errorf("%s is taken", rule)
		}
		good := "UID:b\r\nDTSTART:20261128T090000Z\r\nDURATION:PT1H"
		events, problems, err := ical.Read(strings.NewReader(calendar(
			"UID:a\r\nDTSTART:20261127T090000Z\r\nDURATION:PT1H\r\nRRULE:"+rule, good)), shop)
		if err != nil || len(problems) != 1 || len(events) != 1 {
			t.Errorf("%s: %+v, %v, %v", rule, events, problems, err)
		}
	}
	for _, rule := range []string{"FREQ=MONTHLY;BYDAY=5MO", "FREQ=MONTHLY;BYDAY=-1FR", "FREQ=YEARLY;BYDAY=20MO",
		"FREQ=YEARLY;BYMONTH=11;BYDAY=4TH", "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1", "FREQ=YEARLY;BYWEEKNO=20",
		"FREQ=MONTHLY;BYMONTHDAY=-31"} {
		if err := ical.CheckRule(rule); err != nil {
			t.Errorf("%s: %v", rule, err)
		}
	}
	window := schedule.Span{From: time.Date(2026, 10, 1, 0, 0, 0, 0, shop), To: time.Date(2027, 10, 1, 0, 0, 0, 0, shop)}
	never := make([]string, 150)
	for i := range never {
		never[i] = fmt.Sprintf("UID:%d\r\nDTSTART:19700101T090000Z\r\nDURATION:PT1H\r\n"+
			"RRULE:FREQ=DAILY;COUNT=9;BYMONTH=2;BYMONTHDAY=30,31", i)
	}
	never = append(never, "UID:x\r\nDTSTART;"+strings.Repeat("A=1;", 500_000)+"B=2:20261128T090000Z\r\nDURATION:PT1H")
	events, skipped, err := ical.Read(strings.NewReader(calendar(never...)), shop)
	if err != nil || len(events) != 150 || len(skipped) != 1 || !strings.Contains(skipped[0].Says, "before its value") {
		t.Fatalf("%d events, %v, %v", len(events), skipped, err)
	}
	// Each looks at 21,000 days in which none is meant: few are worked out before a calendar's steps are used up.
	if _, problems := ical.Expand(events, window); len(problems) < 135 {
		t.Errorf("%d of 150 are worked out", 150-len(problems))
	}
}

// A rule from long ago means the same days as when each was counted from its first.
func TestFromLongAgo(t *testing.T) {
	t.Parallel()
	shop := zone(t, "Europe/Oslo")
	r := rand.New(rand.NewPCG(1, 2))
	for range 600 {
		rule := fmt.Sprintf("FREQ=%s;INTERVAL=%d", []string{"DAILY", "WEEKLY", "MONTHLY",
			"YEARLY"}[r.IntN(4)], 1+r.IntN(5))
		if r.IntN(2) == 0 {
			rule += ";BYDAY=" + []string{"MO", "TU,FR", "SU,MO,WE"}[r.IntN(3)]
		}
		if r.IntN(3) == 0 {
			rule += ";BYMONTH=" + []string{"3", "2,10"}[r.IntN(2)]
		}
		if r.IntN(3) == 0 {
			rule += ";WKST=SU"
		}
		if r.IntN(4) == 0 && strings.Contains(rule, "BYDAY") {
			rule += ";BYSETPOS=" + []string{"1", "-1", "2"}[r.IntN(3)]
		}
		from := time.Date(1995+r.IntN(20), time.Month(1+r.IntN(12)), 1+r.IntN(31), r.IntN(24), 30, 0, 0, shop)
		e := ical.Event{Rule: rule, Span: schedule.Span{From: from, To: from.Add(time.Hour)}}
		begin := time.Date(2026, time.Month(1+r.IntN(12)), 1+r.IntN(28), 0, 0, 0, 0, shop)
		window := schedule.Span{From: begin, To: begin.AddDate(0, 0, 60)}
		got, _, err := e.Times(window)
		if err != nil {
			t.Fatal(rule, err)
		}
		e.Rule += ";COUNT=20000" // what is counted is begun at its begin
		want, _, err := e.Times(window)
		if err != nil || !slices.Equal(got, want) {
			t.Errorf("%s from %s: %v, want %v, %v", rule, from, got, want, err)
		}
	}
}

// What is written is read back as it was.
func TestWrittenAndReadBack(t *testing.T) {
	t.Parallel()
	oslo := zone(t, "Europe/Oslo")
	at := func(day, hour int) time.Time { return time.Date(2026, 11, day, hour, 0, 0, 0, oslo) }
	events := []ical.Event{
		{UID: "a", Summary: "A; lid, of \\ two\nlines", Span: schedule.Span{From: at(27, 9), To: at(27, 11)}},
		{UID: "b", Summary: strings.Repeat("øre ", 40), Span: schedule.Span{From: at(20, 18), To: at(20, 19)},
			Rule: "FREQ=WEEKLY;COUNT=5", Without: []time.Time{at(27, 18)}, Extra: []time.Time{at(28, 18)}},
		{UID: "b", Summary: "b", Span: schedule.Span{From: at(5, 18), To: at(5, 19)}, Instead: at(4, 18), Cancelled: true},
		{UID: "c", Summary: "closed", AllDay: true, Span: schedule.Span{From: at(24, 0), To: at(27, 0)}},
	}
	var text bytes.Buffer
	if err := ical.Write(&text, "Netloft", events, at(1, 0)); err != nil {
		t.Fatal(err)
	}
	for line := range strings.SplitSeq(text.String(), "\r\n") {
		if len(line) > 75 || strings.Contains(line, "\n") { // RFC 5545, 3.1
			t.Errorf("a line of %d bytes: %q", len(line), line)
		}
	}
	got, problems, err := ical.Read(&text, oslo)
	if err != nil || len(problems) > 0 || len(got) != len(events) {
		t.Fatalf("%+v, %v, %v", got, problems, err)
	}
	for i, want := range events {
		is := got[i]
		want.Summary = strings.TrimSpace(strings.ReplaceAll(want.Summary, "\n", " "))
		if is.UID != want.UID || is.Summary != want.Summary || !is.From.Equal(want.From) || !is.To.Equal(want.To) ||
			is.AllDay != want.AllDay || is.Cancelled != want.Cancelled || !is.Instead.Equal(want.Instead) ||
			is.Rule != want.Rule || len(is.Without) != len(want.Without) || len(is.Extra) != len(want.Extra) {
			t.Errorf("%+v; want %+v", is, want)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(calendar("UID:a\r\nDTSTART;TZID=Europe/Oslo:20200107T180000\r\nDURATION:PT2H\r\nRRULE:FREQ=WEEKLY;BYDAY=MO"))
	f.Add(calendar("DTSTART:20261127T090000Z\r\nDTEND:20261127T100000Z\r\nRDATE:20261128T090000Z,20261129T090000Z"))
	shop := zone(f, "Europe/Oslo")
	window := schedule.Span{From: time.Date(2026, 1, 1, 0, 0, 0, 0, shop), To: time.Date(2027, 1, 1, 0, 0, 0, 0, shop)}
	f.Fuzz(func(t *testing.T, text string) {
		events, _, err := ical.Read(strings.NewReader(text), shop)
		if err != nil {
			return
		}
		all, _ := ical.Expand(events, window)
		for _, o := range all {
			if !o.At.Overlaps(window) {
				t.Errorf("%+v lies outside of the window", o)
			}
		}
	})
}

func BenchmarkExpand(b *testing.B) {
	shop := zone(b, "Europe/Oslo")
	var events []ical.Event
	for i := range 1000 {
		from := time.Date(2026, 1, 1+i%28, 9+i%9, 0, 0, 0, shop)
		events = append(events, ical.Event{UID: fmt.Sprint(i), Rule: []string{"FREQ=WEEKLY", "FREQ=DAILY;INTERVAL=2",
			"FREQ=MONTHLY"}[i%3],
			Span: schedule.Span{From: from, To: from.Add(2 * time.Hour)}})
	}
	window := schedule.Span{From: time.Date(2026, 1, 1, 0, 0, 0, 0, shop), To: time.Date(2028, 1, 1, 0, 0, 0, 0, shop)}
	for b.Loop() {
		if all, _ := ical.Expand(events, window); len(all) < 100_000 {
			b.Fatal(len(all))
		}
	}
}
