package app_test

import (
	"context"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/wiring"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

func days(n int) time.Time { return now.AddDate(0, 0, n) }

// A probe with its readings moves from the shelf into one machine, on to
// another, back to the shelf and to scrap; what rested on it is void, and where
// it has been can be asked.
func TestAPartMoves(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a, b := add(t, s, "A", map[string]string{"probe.model": "Old probe"}), add(t, s, "B", nil)
	price := 32.0
	id, err := does(s).AddPart(
		ctx,
		"probe",
		"Sounder",
		store.PartFields{Tag: "T-1", Supplier: "Dockside", Price: &price, BoughtOn: now.Format("2006-01-02")},
		"x",
		now,
	)
	must(t, err)
	_, err = does(s).AddPart(ctx, "probe", "Sounder", store.PartFields{Tag: "t-1"}, "x", now)
	refused(t, err, "tagged t-1 already")
	_, err = does(s).AddPart(ctx, "probe", "Sounder", store.PartFields{BoughtOn: "2030-01-01"}, "x", now)
	refused(t, err, "still to come")
	_, err = does(s).AddPart(ctx, "ghost", "Sounder", store.PartFields{}, "x", now)
	refused(t, err, "no kind of part")

	must(
		t,
		does(s).Calibrate(
			ctx,
			a,
			calibration.Mesh,
			calibration.Surface,
			change.Data{Value: "ok", Store: calibration.StoreSettings},
			"x",
			now,
		),
	)
	into := change.Move{To: "machine", MachineID: a, Slot: "probe", Why: "first"}
	refused(t, does(s).MovePart(ctx, id, fromHere(t, s, id, into), "x", days(1)), "A part cannot be where another is")
	refused(
		t,
		does(s).MovePart(
			ctx,
			id,
			fromHere(t, s, id, change.Move{To: "machine", MachineID: a, Slot: "supply", Why: "x"}),
			"x",
			days(1),
		),
		"holds a power supply",
	)
	refused(
		t,
		does(s).MovePart(ctx, id, fromHere(t, s, id, change.Move{To: "machine", MachineID: a, Slot: "probe"}), "x",
			days(1)),
		"say why",
	)
	into.Replaces = true
	must(t, does(s).MovePart(ctx, id, fromHere(t, s, id, into), "x", days(1)))
	if st := current(load(t, s, a), calibration.Mesh, calibration.Surface); st.Word != calibration.NotValid ||
		!strings.Contains(st.Invalid.Reason, "Old probe → Sounder") {
		t.Errorf("the mesh depends on the old probe: %+v", st)
	}
	must(
		t,
		reads(
			s,
			a,
			"probe.senses",
			"metal, without touch",
			machine.Reading{Grade: machine.Observed, TakenAt: days(2), By: "x"},
			days(2),
		),
	)

	must(
		t,
		does(s).MovePart(
			ctx,
			id,
			fromHere(t, s, id, change.Move{To: "machine", MachineID: b, Slot: "probe", Why: "second"}),
			"x",
			days(10),
		),
	)
	if m := load(t, s, a); m.Facts.Model("probe") != machine.None {
		t.Errorf("the slot it left holds %q", m.Facts.Model("probe"))
	}
	if f := load(t, s,
		b).Facts.Fact("probe.senses"); f.Value.Text != "metal, without touch" || f.Grade != machine.Observed {
		t.Errorf("its readings did not go with it: %+v", f)
	}
	p, err := s.Part(ctx, id)
	must(t, err)
	if len(p.Places) != 2 || p.Now() == nil || p.Now().Machine != "B" || p.Places[1].Machine != "A" ||
		p.Places[1].To == nil ||
		p.Model != "Sounder" {
		t.Errorf("where it has been: %+v", p.Places)
	}
	hs, err := s.Histories(ctx, a)
	must(t, err)
	for day, want := range map[int]string{0: "Old probe", 5: "Sounder", 11: machine.None} {
		if got := hs[a].At(days(day).Add(time.Hour)).Model("probe"); got != want {
			t.Errorf("A on day %d: %q, want %q", day, got, want)
		}
	}
	cost := func(id int64) machine.Cost {
		t.Helper()
		c, err := s.CostOf(ctx, id)
		must(t, err)
		return c
	}
	must(t, does(s).LogWork(ctx, a, 40, "probe fitted", "x", now))
	refused(t, does(s).LogWork(ctx, a, 0, "x", "x", now), "cannot be right")
	if c := cost(a); c.Parts != 32 || c.Minutes != 40 {
		t.Errorf("A has cost %+v", c)
	}
	if c := cost(b); c.Parts != 0 || c.MovedIn != 1 {
		t.Errorf("B has cost %+v", c)
	}

	must(
		t,
		does(s).MovePart(ctx, id, fromHere(t, s, id, change.Move{To: "shelf", Shelf: "drawer 4", Why: "spare"}), "x",
			days(20)),
	)
	must(t, does(s).MovePart(ctx, id, fromHere(t, s, id, change.Move{To: "scrap", Why: "cable torn"}), "x", days(21)))
	refused(t, does(s).MovePart(ctx, id, fromHere(t, s, id, into), "x", days(22)), "was scrapped on")
	if p, _ = s.Part(ctx, id); p.Now() != nil || p.ScrappedAt == nil || p.ScrappedWhy != "cable torn" {
		t.Errorf("scrapped: %+v", p)
	}
	if err := does(s).ChangePart(ctx, id, p.Version-1, store.PartFields{}, "y", now); !isConflict(err) {
		t.Errorf("over an older version: %v", err)
	}
	must(t, does(s).ChangePart(ctx, id, p.Version, store.PartFields{Tag: "T-9"}, "y", now))
}

func isConflict(err error) bool { _, ok := err.(*app.Conflict); return ok }

// Claims are tallied by who made them; what contradicts them stays beside them.
func TestClaimsBySupplier(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id, err := does(s).AddMachine(ctx, store.Fields{Name: "A", Supplier: "Quick Parcel"}, app.Like{}, "x", now)
	must(t, err)
	claim := func(key, v string, g machine.Grade) {
		t.Helper()
		must(t, reads(s, id, machine.Key(key), v, machine.Reading{Grade: g, TakenAt: now, By: "x"}, now))
	}
	claim("supply.watts", "350", machine.Claimed)
	claim("supply.watts", "280", machine.Marked)
	claim("nozzle.bore", "0.4", machine.Claimed)
	claim("plate.metal", "yes", machine.Claimed)
	claim("plate.metal", "yes", machine.Observed)
	tally, err := does(s).Suppliers(ctx)
	must(t, err)
	if len(tally) != 1 || tally[0].Supplier != "Quick Parcel" || tally[0].Claims != 3 || tally[0].Checked != 2 ||
		tally[0].False != 1 {
		t.Errorf("%+v", tally)
	}
	// Taken back as misheard, a claim was never made.
	for _, r := range load(t, s, id).Readings {
		if r.Key == "supply.watts" && r.Grade == machine.Claimed {
			must(t, does(s).Retract(ctx, r.ID, "another machine", "x", now))
		}
	}
	if tally, _ = does(s).Suppliers(ctx); tally[0].Claims != 2 || tally[0].False != 0 {
		t.Errorf("after taking it back: %+v", tally)
	}
}

// A technician adds a kind, a slot and a model, uses them, and can no more
// delete what is in use; another instance learns of it.
func TestTheCatalogueIsEdited(t *testing.T) {
	t.Parallel()
	dsn := pgtest.Database(t)
	open := func() *store.Store {
		s, err := store.Open(dsn)
		must(t, err)
		t.Cleanup(func() { s.Close() })
		must(t, s.Migrate(ctx))
		return s
	}
	s, other := open(), open()
	kind := machine.PartKind{
		Key:   "chamber",
		Label: "Chamber",
		Traits: []machine.TraitDef{
			{Name: "model", Short: "model", Kind: machine.Text},
			{Name: "litres", Short: "volume", Kind: machine.Number},
		},
	}
	save := func(s *store.Store, version int, c machine.Catalogue) error {
		return does(s).SaveEntry(ctx, version, c, "Ann", now)
	}
	must(t, save(s, 0, machine.Catalogue{Kinds: []machine.PartKind{kind}}))
	must(
		t,
		save(
			s,
			0,
			machine.Catalogue{Slots: []machine.Position{{Key: "chamber", Label: "Chamber", Group: "Mods", Kind: "chamber"}}},
		),
	)
	must(
		t,
		save(
			s,
			0,
			machine.Catalogue{
				Models: []machine.Model{{Kind: "chamber", Name: "Hood 1", Defaults: map[string]string{"litres": "90"}}},
			},
		),
	)
	refused(t, save(s, 0, machine.Catalogue{Kinds: []machine.PartKind{kind}}), "there is a kind chamber already")
	if err := save(s, 7, machine.Catalogue{Kinds: []machine.PartKind{kind}}); !isConflict(err) {
		t.Errorf("over another version: %v", err)
	}

	must(t, other.Refresh(ctx))
	id := add(t, other, "A", map[string]string{"chamber.model": "hood 1"})
	if f := load(t, other, id).Facts.Fact("chamber.litres"); f.Value.Number != 90 || f.FromModel == "" {
		t.Errorf("the other instance's machine: %+v", f)
	}
	must(t, reads(other, id, "chamber.litres", "95", machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"}, now))

	bare := kind
	bare.Traits = kind.Traits[:1]
	refused(t, save(s, 1, machine.Catalogue{Kinds: []machine.PartKind{bare}}), "volume is in use: there are 1 readings")
	refused(t, does(s).DeleteEntry(ctx, "slot", "chamber", 1), "Supersede it instead")
	refused(t, does(s).DeleteEntry(ctx, "kind", "springs", 1), "springs")
	kind.Traits[1].Superseded = "model"
	must(t, save(s, 1, machine.Catalogue{Kinds: []machine.PartKind{kind}}))
	refused(
		t,
		reads(s, id, "chamber.litres", "96", machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"}, now),
		"is superseded",
	)
	refused(t, does(s).DeleteEntry(ctx, "model", "chamber/hood 1", 1), "it is named by A")

	// A rule reads the probe header, a kit the room beside the frame: both have to stay.
	c, err := s.CatalogueNow(ctx)
	must(t, err)
	for _, k := range c.Kinds {
		for kind, needed := range map[string][2]string{"mainboard": {"probe-port", "the sums of what a machine offers"},
			"frame": {"z-room", "A kit asks for it"}} {
			if k.Key == kind {
				k.Traits = slices.DeleteFunc(slices.Clone(k.Traits),
					func(t machine.TraitDef) bool { return t.Name == needed[0] })
				refused(t, save(s, 1, machine.Catalogue{Kinds: []machine.PartKind{k}}), needed[1])
			}
		}
	}
	// An edited entry outlives the next start; a shipped one that is lacking comes back.
	if _, err := s.SQL.Exec("delete from catalogue_entries where key = 'mod-4'"); err != nil {
		t.Fatal(err)
	}
	must(t, s.Migrate(ctx))
	if _, ok := s.Vocabulary(t.Context()).Position("mod-4"); !ok {
		t.Error("a shipped slot is not put back")
	}
	if tr, ok := s.Vocabulary(t.Context()).Trait("chamber.litres"); !ok || tr.Superseded == "" {
		t.Error("what was edited is gone after a start")
	}
	file, err := catalogue.ReadFile(
		[]byte(
			`{"format": "wardifex-catalogue", "version": 1, "models": [{"kind": "supply", "name": "Lode 12", "defaults":
				{"volts": "twelve"}}]}`,
		),
	)
	must(t, err)
	p, err := does(s).ImportCatalogue(ctx, store.ImportFile{}, file, "Ann", now)
	refused(t, err, "nothing was changed")
	if len(p.Faults) != 1 {
		t.Errorf("faults: %v", p.Faults)
	}
}

func TestFaultsAndUse(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "A", nil)
	_, _, err := does(s).ReportFault(ctx, id, "", "  ", "Pia", now)
	refused(t, err, "say what is wrong")
	_, _, err = does(s).ReportFault(ctx, id, "ghost", "x", "Pia", now)
	refused(t, err, "no symptom")
	fault, _, err := does(s).ReportFault(ctx, id, "ringing", "ghosts beside edges", "Pia", now)
	must(t, err)
	if m := load(t, s, id); m.OpenFaults != 1 || m.Use.Use != maintenance.InUse {
		t.Errorf("reported: %d open, %s", m.OpenFaults, m.Use.Use)
	}
	refused(t, does(s).SetUse(ctx, []int64{id}, maintenance.OutOfUse, "", "x", now), "say why")
	refused(t, does(s).SetUse(ctx, []int64{id}, "idle", "x", "x", now), "none of")
	must(t, does(s).SetUse(ctx, []int64{id}, maintenance.OutOfUse, "belt torn", "x", now))
	must(t, does(s).SetUse(ctx, []int64{id}, maintenance.Attended, "new belt, watch it", "x", days(1)))
	must(t, does(s).CloseFault(ctx, fault, 1, "belts unequal", "x", days(1)))
	if err := does(s).CloseFault(ctx, fault, 1, "something else", "y", days(1)); !isConflict(err) {
		t.Errorf("answered twice at once: %v", err)
	}
	if m := load(t, s, id); m.OpenFaults != 0 || m.Use.Use != maintenance.Attended || m.Use.Why != "new belt, watch it" {
		t.Errorf("after: %d open, %+v", m.OpenFaults, m.Use)
	}
	list, err := s.Faults(ctx, store.FaultFilter{Machine: id})
	must(t, err)
	if list.Found != 1 || list.Rows[0].Answer != "belts unequal" || list.Rows[0].Machine != "A" {
		t.Errorf("%+v", list)
	}
	events, err := s.Timeline(ctx, id, store.Cut{})
	must(t, err)
	if part, err := s.Timeline(ctx, id, store.Cut{Offset: 3, Limit: 1}); err != nil || part.Found != 5 ||
		!slices.Equal(part.Rows, events.Rows[3:4]) {
		t.Errorf("a part of the timeline: %+v, %v", part, err)
	}
	var said []string
	for _, e := range events.Rows {
		said = append(said, e.Kind+" "+e.Title)
	}
	if got := strings.Join(said, ", "); got != "fault answered, use attended only, fault reported, register in the "+
		"register, use out of use" {
		t.Errorf("the timeline: %s", got)
	}
}

func TestWireSheetsAndQuestions(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "A", nil)
	loom := wiring.Loom{Wires: []wiring.Wire{{Connector: "bed", Way: 1, Carries: "heater"}}, Motors: []wiring.Motor{}}
	must(t, does(s).SaveWireSheet(ctx, id, "", 0, loom, "Ann", now))
	must(t, does(s).SaveWireSheet(ctx, id, "head 2", 0, loom, "Ann", now))
	if err := does(s).SaveWireSheet(ctx, id, "", 0, loom, "Bo", now); !isConflict(err) {
		t.Errorf("over another's sheet: %v", err)
	}
	must(t, does(s).SaveWireSheet(ctx, id, "", 1, loom, "Bo", now))
	loom.Wires[0].Way = 0
	refused(t, does(s).SaveWireSheet(ctx, id, "", 2, loom, "Bo", now), "pin from 1 to 64")
	sheets, err := s.WireSheets(ctx, id)
	must(t, err)
	if len(sheets) != 2 || sheets[0].Version != 2 || sheets[1].Head != "head 2" {
		t.Errorf("%+v", sheets)
	}

	q := store.SavedQuestion{
		Name:     "Mine",
		Question: fleetquery.Question{Columns: []string{"probe"}, Where: []fleetquery.Filter{}},
	}
	q.ID, err = does(s).SaveQuestion(ctx, q, "Ann", now)
	must(t, err)
	_, err = does(s).SaveQuestion(ctx, store.SavedQuestion{Name: "MINE", Question: q.Question}, "Bo", now)
	refused(t, err, "named MINE already")
	_, err = does(s).SaveQuestion(
		ctx,
		store.SavedQuestion{Name: "Bad", Question: fleetquery.Question{Columns: []string{"ghost"}}},
		"Bo",
		now,
	)
	refused(t, err, "there is no column")
	if _, err = does(s).SaveQuestion(ctx, q, "Bo", now); !isConflict(err) {
		t.Errorf("over a changed question: %v", err)
	}
	q.Version = 1
	_, err = does(s).SaveQuestion(ctx, q, "Ann", now)
	must(t, err)
	must(t, does(s).DeleteQuestion(ctx, q.ID))
	if err := does(s).DeleteQuestion(ctx, q.ID); err != store.ErrNotFound {
		t.Errorf("forgotten twice: %v", err)
	}
}

// fromHere says of a move that the part is where it is now.
func fromHere(t *testing.T, s *store.Store, id int64, m change.Move) change.Move {
	t.Helper()
	p, err := s.Part(ctx, id)
	must(t, err)
	if at := p.Now(); at != nil {
		m.From = change.Origin{MachineID: at.MachineID, Slot: at.Slot}
	}
	return m
}

// Two people carry two parts to and fro between two machines: whoever comes second finds
// the part elsewhere or waits; nobody's move fails for the other's sake.
func TestPartsCross(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a, b := add(t, s, "A", nil), add(t, s, "B", nil)
	one, err := does(s).AddPart(ctx, "nozzle", "Brass 04", store.PartFields{}, "x", now)
	must(t, err)
	two, err := does(s).AddPart(ctx, "probe", "Plumbline", store.PartFields{}, "x", now)
	must(t, err)
	// moved carries a part from where it is to the other machine.
	moved := func(part int64, slot string, first int64, at time.Time) error {
		return s.InTx(ctx, func(ctx context.Context) error {
			p, err := s.Part(ctx, part)
			if err != nil {
				return err
			}
			m := change.Move{To: "machine", MachineID: first, Slot: slot, Why: "x"}
			if is := p.Now(); is != nil {
				m.MachineID, m.From = a+b-is.MachineID, change.Origin{MachineID: is.MachineID, Slot: is.Slot}
			}
			return does(s).MovePart(ctx, part, m, "x", at)
		})
	}
	var all sync.WaitGroup
	var done atomic.Int64
	for i, part := range []int64{one, two, one, two} {
		all.Go(func() {
			slot := map[int64]string{one: "nozzle", two: "probe"}[part]
			for n := range 15 {
				for tries := 0; ; tries++ {
					err := moved(part, slot, []int64{a, b}[i%2], now.Add(time.Duration(n+1)*time.Hour))
					if isConflict(err) && tries < 200 {
						continue // the other moved it meanwhile: look again
					}
					if err != nil {
						t.Error(err)
					} else {
						done.Add(1)
					}
					break
				}
			}
		})
	}
	all.Wait()
	if done.Load() != 60 {
		t.Errorf("%d of 60 moves", done.Load())
	}
}

// A model stays while anything names it, whichever of its names is used; what names it is told.
func TestANamedModelStays(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	addUser(t, s, "ann")
	hood := func(name string, aliases ...string) machine.Model {
		return machine.Model{Kind: "plate", Name: name, Aliases: aliases}
	}
	save := func(version int, m machine.Model) error {
		return does(s).SaveEntry(ctx, version, machine.Catalogue{Models: []machine.Model{m}}, "Ann", now)
	}
	for _, m := range []machine.Model{hood("Free"), hood("Fitted"), hood("Asked"), hood("Effect", "Old effect"),
		hood("Needed"), hood("Ancestor"), hood("Shelved"), hood("Built for")} {
		must(t, save(0, m))
	}
	is := func(name string) machine.Requirement {
		return machine.Requirement{Label: "It is there", Test: &machine.Test{Slot: "plate", Trait: "model", Op: fit.Equal,
			Values: []string{name}, Least: machine.Marked}}
	}
	add(t, s, "Avocet", map[string]string{"plate.model": "Fitted"})
	must(t, does(s).SaveKit(ctx, fit.Kit{Key: "hood", Name: "Hood kit", What: "plate",
		Effects: []machine.Effect{{Slot: "plate", Model: "old  EFFECT"}}}, 0))
	must(t, does(s).SaveKit(ctx, fit.Kit{Key: "other", Name: "Other kit", What: "plate", Needs: is("Needed")}, 0))
	must(t, save(0, machine.Model{Kind: "plate", Name: "Heir", BasedOn: "Ancestor"}))
	_, err := does(s).SaveQuestion(ctx, store.SavedQuestion{Name: "Which", Question: fleetquery.Question{
		Columns: []string{"plate"}, Where: []fleetquery.Filter{{Of: "plate.model", Test: "is", Value: "Asked"}}}}, "Ann", now)
	must(t, err)
	_, err = does(s).AddBuild(ctx, firmware.Build{Name: "Tall", Family: "compiled", Processor: "Built for"}, "Ann", now)
	must(t, err)
	for name, by := range map[string]string{"Fitted": "Avocet", "Asked": "Which", "Effect": "Hood kit",
		"Needed": "Other kit", "Ancestor": "Heir", "Built for": "Tall"} {
		refused(t, does(s).DeleteEntry(ctx, "model", "plate/"+strings.ToLower(name), 1), by)
	}
	refused(t, save(1, hood("Effect")), "Hood kit") // without the name that the kit has for it
	must(t, does(s).RenameModel(ctx, 1, "Asked", hood("Asked again"), "Ann", now))
	must(t, does(s).DeleteEntry(ctx, "model", "plate/free", 1))
}
