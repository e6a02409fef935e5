package catalogue_test

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/maintenance"
)

// sibling is a position and one more of its kind, which obeys what the first obeys.
type sibling struct {
	first, other machine.Position
	voc          *machine.Vocabulary
	list         []machine.Position
	whole        []machine.Position // with what hangs together with the other
}

// siblings adds one more of every kind of which a machine can have several, where the
// rules know it: on another head, at the same axis, at the same bed.
func siblings(t *testing.T) []sibling {
	t.Helper()
	c := catalogue.Shipped()
	// A shop's own kind that is like a known one.
	c.Kinds = append(c.Kinds, machine.PartKind{Key: "stove", Label: "Enclosure heater", Like: "heater"})
	plain, err := c.Vocabulary()
	if err != nil {
		t.Fatal(err)
	}
	usual := plain.Usual(func(machine.Position) bool { return false })
	var out []sibling
	add := func(first machine.Position, kind string, serves machine.Place) {
		other, err := plain.Structure(usual).NewPosition(machine.Position{Kind: kind, Serves: serves}, catalogue.KeyFor)
		if err != nil {
			t.Fatal(err)
		}
		list := append(slices.Clone(usual), other)
		if !slices.ContainsFunc(list, func(p machine.Position) bool { return p.Key == first.Key }) {
			list = append(list, first)
		}
		// What hangs together with it is there as well: a head is whole, a driver has its
		// motor.
		whole := slices.Clone(list)
		for _, p := range plain.Slots {
			beside := p.Serves == first.Serves && p.Serves.Kind() != machine.PlaceKind(machine.Electronics) &&
				p.Superseded == "" &&
				p.Ordinal() == 1
			if twin := (machine.Position{Kind: p.Kind, Serves: serves, N: other.N}); beside && p.Kind != kind {
				if twin, err := plain.Structure(whole).NewPosition(twin, catalogue.KeyFor); err == nil {
					whole = append(whole, twin)
				}
			}
		}
		voc, err := c.Vocabulary(whole...)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, sibling{first, other, voc, list, whole})
	}
	for _, k := range c.Kinds {
		if k.OnePer == "machine" || k.Key == "stove" {
			continue
		}
		firsts := map[string]bool{}
		for _, p := range plain.Slots {
			place := string(p.Serves.Kind())
			if p.Kind != k.Key || p.Superseded != "" || firsts[place] || p.Ordinal() > 1 || p.Serves.Head() > 1 {
				continue
			}
			firsts[place] = true
			serves := p.Serves
			if p.Serves.Head() == 1 {
				serves = machine.Head(2)
			} else if k.OnePer == "place" {
				serves = machine.Axis("u")
			}
			add(p, k.Key, serves)
		}
	}
	heater, _ := plain.Position("heater")
	add(heater, "stove", machine.Enclosure)
	if len(out) < 20 {
		t.Fatalf("only %d kinds can be more than one", len(out))
	}
	return out
}

// machineWith is a machine of the siblings' positions; in values "first." and
// "other." stand for the two.
func (x sibling) machineWith(values map[string]string) machine.Snapshot {
	return x.built(x.list, machine.HeadsTogether, values)
}

func (x sibling) built(list []machine.Position, heads string, values map[string]string) machine.Snapshot {
	all := map[string]string{"structure.heads": heads, "structure.complete": "yes"}
	for key, v := range values {
		key = strings.Replace(strings.Replace(key, "first.", x.first.Key+".", 1), "other.", x.other.Key+".", 1)
		if _, ok := x.voc.Trait(machine.Key(key)); ok {
			all[key] = v
		}
	}
	return machine.NewSnapshot(x.voc, machine.Record{Readings: machinetest.Readings(x.voc, all), Positions: list})
}

func merged(sets ...map[string]string) map[string]string {
	out := map[string]string{}
	for _, s := range sets {
		maps.Copy(out, s)
	}
	return out
}

// telling are values of a part by which every rule that reads it has something to say.
var telling = map[string]map[string]string{
	"heater":  {"model": "x", "volts": "12", "watts": "55"},
	"sensor":  {"model": "x", "type": "Pt100"},
	"driver":  {"model": "x", "microsteps": "64", "max-microsteps": "32"},
	"motor":   {"model": "x", "current": "1"},
	"hotend":  {"model": "x", "liner": "yes", "working-temperature": "260"},
	"nozzle":  {"model": "x", "abrasive": "yes"},
	"probe":   {"model": "x", "senses": "metal, without touch"},
	"supply":  {"model": "x", "volts": "24", "watts": "260"},
	"circuit": {"model": "x"},
}

func (x sibling) values(which string) map[string]string {
	out := map[string]string{}
	for name, v := range telling[cmp.Or(map[string]string{"stove": "heater"}[x.other.Kind], x.other.Kind)] {
		out[which+"."+name] = v
	}
	if len(out) == 0 {
		out[which+".model"] = "x"
	}
	return out
}

// One more of every kind that can be more than one is compared with its sibling, rule
// by rule.
func TestOneMoreObeysWhatItsSiblingObeys(t *testing.T) {
	base := map[string]string{
		"supply.volts":    "24",
		"supply.watts":    "350",
		"plate.metal":     "no",
		"plate.mains":     "no",
		"firmware.family": "compiled",
	}
	for _, x := range siblings(t) {
		t.Run(x.other.Key, func(t *testing.T) {
			values := merged(base, x.values("first"), x.values("other"))
			both := x.machineWith(values)
			whole := x.built(x.whole, machine.HeadsChanged, values) // each head has values of its own
			feeds := x.first.Kind != "supply"                       // a second one feeds nothing
			for rule, obeys := range map[string]func(p machine.Position, which string) string{
				"what its change makes invalid": func(p machine.Position, _ string) string {
					if !feeds {
						return ""
					}
					c, err := change.ByHand(p.Key, "another", whole)
					if err != nil {
						t.Fatal(err)
					}
					var kinds []string
					for _, due := range c.Needed(nil) {
						if kind := string(due.Calibration.Kind); !slices.Contains(kinds, kind) {
							kinds = append(kinds, kind)
						}
					}
					return strings.Join(kinds, " ")
				},
				"what a build states of it": func(p machine.Position, _ string) string {
					o := machine.NewOverlay(x.voc)
					values := map[string]machine.Value{"model": {Text: "none"}, "type": {Text: "Pt1000"},
						"senses": {Text: "surface, by touch"}}
					o.Fit(p.Key, values, machine.Observed)
					said := firmware.Restated(both, both.Over(o).Settled())
					return strings.ReplaceAll(strings.Join(said, "; "), p.Label, "it")
				},
				"the steps of changing it": func(p machine.Position, _ string) string {
					kit := fit.Kit{Key: "k", Name: "k", Effects: []fit.Effect{{Slot: p.Key, Model: "another"}},
						Steps: []fit.FittingStep{{Title: "Change it"}}}
					if !feeds {
						return ""
					}
					c, err := change.NewChange(kit, nil, whole)
					if err != nil {
						t.Fatal(err)
					}
					var keys []string
					// What a part asks for because it hangs at a head, whatever its kind.
					atHead := []string{"baseline", "filament-out", "hotend-fan", "home", "fans", "first-layer", "test-print", "look"}
					for _, s := range c.WorkOrder(nil) {
						if x.first.Serves.Kind() != x.other.Serves.Kind() && slices.Contains(atHead, s.Key) {
							continue
						}
						key := cmp.Or(string(s.Calibration), s.Key) // each of its own subject
						if !slices.Contains(keys, key) {
							keys = append(keys, key)
						}
					}
					return strings.Join(keys, " ")
				},
				"contradictions": func(p machine.Position, which string) string {
					s := x.machineWith(merged(base, x.values(which)))
					var said []string
					for _, c := range inspection.Contradictions(s, nil) {
						for _, k := range c.Keys {
							if k.Slot() == p.Key {
								kind, _ := x.voc.Kind(p.Kind)
								sentence := strings.ReplaceAll(c.Sentence, " ("+p.Label+")", "")
								said = append(said, strings.NewReplacer("("+strings.ToLower(kind.Label)+")", "", p.Label,
									"it").Replace(sentence))
								break
							}
						}
					}
					slices.Sort(said)
					return strings.Join(said, "; ")
				},
				"inspection questions": func(p machine.Position, _ string) string {
					asked := []string{}
					for _, q := range inspection.Questions(x.machineWith(map[string]string{"firmware.family": "compiled",
						"first.model": "x", "other.model": "x"}), inspection.Identity, nil, func(machine.Key,
						string) bool {
						return false
					}) {
						if q.Key.Slot() == p.Key && q.Key.Trait() != "family" { // which is known of the first alone
							asked = append(asked, q.Key.Trait()+" by "+q.Inspection.Key)
						}
					}
					slices.Sort(asked)
					return strings.Join(asked, "; ")
				},
				"maintenance": func(p machine.Position, which string) string {
					s := x.machineWith(merged(base, x.values(which)))
					var out []string
					for _, task := range maintenance.Shipped() {
						if !x.voc.Is(p.Kind, task.Kind) {
							continue
						}
						for _, at := range s.Each(p.Kind) {
							if limits, why, applies := task.Interval(s, at); applies && at.Key == p.Key {
								out = append(out, fmt.Sprint(task.Key, limits, why))
							}
						}
					}
					return strings.Join(out, "; ")
				},
				"capacities": func(p machine.Position, which string) string {
					without := x.machineWith(merged(base, map[string]string{"first.model": "none", "other.model": "none"}))
					with := x.machineWith(merged(base, map[string]string{"first.model": "none", "other.model": "none"},
						x.values(which)))
					var out []string
					for _, c := range fit.Capacities() {
						if c.Holder == p.Kind {
							continue // one more holder has a capacity of its own
						}
						lo, hi := fit.Left(without, c.Key)
						lo2, hi2 := fit.Left(with, c.Key)
						if lo != lo2 || hi != hi2 {
							out = append(out, fmt.Sprintf("%s %g to %g", c.Key, lo-lo2, hi-hi2))
						}
					}
					return strings.Join(out, "; ")
				},
			} {
				first, other := obeys(x.first, "first"), obeys(x.other, "other")
				if x.other.Kind == "stove" {
					first = strings.ReplaceAll(strings.ReplaceAll(first, "hotend-pid ", ""), " hotend-pid", "")
				}
				if first != other {
					t.Errorf("%s:\n%s: %q\n%s: %q", rule, x.first.Label, first, x.other.Label, other)
				}
			}
		})
	}
}
