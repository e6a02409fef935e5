package change_test

import (
	"testing"
	"time"

	"wardifex/internal/core/change"
)

func TestLocks(t *testing.T) {
	off := time.Now()
	me := change.Person{Account: 7, Name: "Ansa"}
	ansa, joren := change.Lock{ID: 1, Account: 7, Name: "Ansa"}, change.Lock{ID: 2, Account: 8, Name: "Joren"}
	namesake, imported := change.Lock{ID: 4, Account: 9, Name: "Ansa"}, change.Lock{ID: 5, Name: "Ansa"}
	gone := change.Lock{ID: 3, Name: "Tove", Off: &off}
	for name, tt := range map[string]struct {
		locks []change.Lock
		ok    bool
	}{
		"none":                              {nil, true},
		"one's own":                         {[]change.Lock{ansa}, true},
		"another's":                         {[]change.Lock{ansa, joren}, false},
		"another's, and off":                {[]change.Lock{ansa, gone}, true},
		"of another one shown by this name": {[]change.Lock{namesake}, false},
		"of this name, whose account is not known": {[]change.Lock{imported}, false},
	} {
		if err := change.MayUnlock(tt.locks, me); (err == nil) != tt.ok {
			t.Errorf("%s: %v", name, err)
		}
	}
	for name, tt := range map[string]struct {
		lock            change.Lock
		lead, contacted bool
		why             string
		ok              bool
	}{
		"one's own":                        {ansa, false, false, "", true},
		"another's, no lead":               {joren, false, true, "ill", false},
		"a lead, without contact":          {joren, true, false, "ill", false},
		"a lead, without a reason":         {joren, true, true, " ", false},
		"a lead, with contact and reason":  {joren, true, true, "ill", true},
		"of another one of this name":      {namesake, false, true, "ill", false},
		"one that is off already":          {gone, true, true, "ill", false},
		"one's own, though one is no lead": {ansa, false, false, "", true},
	} {
		if err := tt.lock.MayTakeOff(me, tt.lead, tt.contacted, tt.why); (err == nil) != tt.ok {
			t.Errorf("%s: %v", name, err)
		}
	}
	for name, tt := range map[string]struct {
		p  change.Parked
		ok bool
	}{
		"why and what is loose": {change.Parked{Why: "waits for a part", Loose: "nothing"}, true},
		"no reason":             {change.Parked{Loose: "nothing"}, false},
		"not what is loose":     {change.Parked{Why: "lunch"}, false},
	} {
		if err := tt.p.Check(); (err == nil) != tt.ok {
			t.Errorf("%s: %v", name, err)
		}
	}
}
