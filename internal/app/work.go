package app

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/change"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/drift"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/plan"
	"wardifex/internal/core/roster"
	"wardifex/internal/core/settings"
	"wardifex/internal/core/wiring"
	"wardifex/internal/store"
)

// Order is a work order.
type Order struct {
	store.OrderHead
	Family   string               `json:"family" doc:"Firmware family, for the lines that store a value"`
	Remarks  []string             `json:"remarks" doc:"Not right already when it was opened, or to be in before it is run"`
	Delivery []string             `json:"delivery" doc:"What of the kit's parts is to be checked when it comes"`
	Expected change.Closing       `json:"expected" doc:"What the work will exchange and make invalid"`
	StepList []store.OrderStep    `json:"stepList"`
	Closing  *change.Closing      `json:"closing,omitempty"`
	Planned  []store.OrderHead    `json:"planned" doc:"What waits its turn on this machine"`
	Locked   int64                `json:"locked,omitempty" doc:"Number of the order that is open on the machine"`
	Locks    []change.Lock        `json:"locks" doc:"Of the people at work, those that are on first"`
	Parked   *change.Parked       `json:"parked,omitempty"`
	Compared []change.BeforeAfter `json:"compared" doc:"What was measured before and after the change"`
	Seen     SeenBothTimes        `json:"seen" doc:"Pictures from before and after the change"`
	Back     *store.RolledBack    `json:"back,omitempty" doc:"Why the work is rolled back, where it is"`
	MayBack  bool                 `json:"mayBack" doc:"Something is done already that can be rolled back step by step"`
	// Transfer is where the wires of the old board go on the new one, by the wire sheet.
	Transfer *wiring.Transfer `json:"transfer,omitempty"`
	// Pasted is what settings that were pasted into a step state.
	Pasted *PastedSettings `json:"pasted,omitempty"`
	// ProposedFile is a file name that the board has not seen, where the order asks for one.
	ProposedFile string `json:"proposedFile,omitempty"`
	// Disagree is shown where values are built in, entered again or taken out of start code.
	Disagree []drift.DriftedValue `json:"disagree" doc:"Values that the machine's settings set to different numbers"`
	// MayKeepSteps says that it is of a kit of the catalogue or of a task, which can have steps of the house's own.
	MayKeepSteps bool `json:"mayKeepSteps"`
}

// SeenBothTimes are the pictures that lie beside each other when a change is judged, by number.
type SeenBothTimes struct {
	Before []int64 `json:"before" doc:"Of the baseline"`
	After  []int64 `json:"after" doc:"Of the first layer and the test print"`
}

// seen gathers the pictures of the steps that show the machine before and after.
func (o order) seen() SeenBothTimes {
	out := SeenBothTimes{Before: []int64{}, After: []int64{}}
	for _, s := range o.StepList {
		switch before, after := s.Shows(); {
		case before:
			out.Before = append(out.Before, s.Photos...)
		case after:
			out.After = append(out.After, s.Photos...)
		}
	}
	return out
}

// order is a work order with its machine as it is, and what it changes there.
type order struct {
	store.StoredOrder
	machine store.Machine
	change  change.Change
	words   *settings.Words
}

func (a *App) order(ctx context.Context, id int64) (order, error) {
	stored, err := a.store.Order(ctx, id)
	if err != nil {
		return order{}, err
	}
	o := order{StoredOrder: stored}
	if o.words, err = a.words(ctx); err != nil {
		return o, err
	}
	if o.machine, err = a.store.Machine(ctx, o.MachineID); err != nil {
		return o, err
	}
	for i := range o.StepList {
		o.StepList[i].NameFigures()
	}
	o.change, err = change.NewChange(o.Kit, o.Additional, o.machine.Facts)
	return o, err
}

func (o order) progress() change.Progress {
	p := make(change.Progress, len(o.StepList))
	for i, s := range o.StepList {
		p[i] = change.Progressed{Step: s.Step, Done: s.DoneAt != nil, Skipped: s.SkippedWhy != ""}
	}
	return p
}

// step is the place of a step among those of the order.
func (o order) step(key string) (int, error) {
	for i := range o.StepList {
		if o.StepList[i].Key == key {
			return i, nil
		}
	}
	return 0, ErrNotFound
}

// Order loads a work order with its steps.
func (a *App) Order(ctx context.Context, id int64) (Order, error) {
	o, err := a.order(ctx, id)
	if err != nil {
		return Order{}, err
	}
	out := Order{OrderHead: o.OrderHead, Family: o.machine.Family(), Remarks: o.Remarks, Delivery: o.Delivery,
		StepList: o.StepList, Closing: o.Closing, Planned: o.machine.Planned, Locks: o.Locks, Parked: o.Parked, Back: o.Back,
		Seen:         o.seen(),
		MayBack:      o.State == store.Opened && o.Back == nil && o.progress().MayAbandon() != nil,
		MayKeepSteps: o.Task != "" || !strings.HasPrefix(o.KitKey, change.OwnKit)}
	if slices.ContainsFunc(o.StepList, func(s store.OrderStep) bool { return s.Form == change.FileNameForm }) {
		out.ProposedFile = firmware.UniqueName(o.machine.Name, civil.Of(a.now()).String(), o.machine.LastFile())
	}
	out.Disagree = []drift.DriftedValue{}
	if o.State == store.Opened {
		out.Pasted = o.pasted()
		if out.Disagree, err = a.driftOf(ctx, &o.machine, o.words); err != nil {
			return out, err
		}
	}
	if out.Transfer, err = a.transfer(ctx, o); err != nil {
		return out, err
	}
	out.Compared, _ = change.Compare(o.worked()) // what cannot be read is still being typed
	if out.Compared == nil {
		out.Compared = []change.BeforeAfter{}
	}
	if o.Closing != nil {
		out.Expected = *o.Closing
	} else {
		out.Expected = o.change.Expected(o.machine.Records)
	}
	if o.machine.OpenOrder != nil {
		out.Locked = o.machine.OpenOrder.ID
	}
	return out, nil
}

// OpenWork opens a work order for a kit on a machine that it fits, and gives its number;
// the machine is locked out until the order is closed.
func (a *App) OpenWork(ctx context.Context, machineID int64, kitKey, reason, by string, now time.Time) (int64, error) {
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.lockForNewOrder(ctx, machineID, reason)
		if err != nil {
			return err
		}
		j, err := a.Judge(ctx, kitKey)
		if err != nil {
			return err
		}
		id, err = a.begin(ctx, m, j, nil, store.NewOrder{Reason: reason, By: by, At: now})
		return err
	})
	return id, err
}

// OpenSwap opens a work order for one part for another at a position: another model, which is
// judged as a kit is, or a new one of the same. What a look would settle is a remark: whoever
// swaps a part stands at the machine.
// spare is the part of the shelf that comes in, which tells the model; 0 where it is none.
func (a *App) OpenSwap(ctx context.Context, machineID int64, slot, model string, spare int64, reason, by string,
	now time.Time) (int64, error) {
	if err := machine.PlainText(model); err != nil && spare == 0 {
		return 0, refuse("model: %s; write none where the position is left empty", err)
	}
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.lockForNewOrder(ctx, machineID, reason)
		if err != nil {
			return err
		}
		at := positionOf(m, slot)
		if at == nil || a.store.Vocabulary(ctx).Software(at.Kind) {
			return refuse("%s has no position %q whose part could be swapped", m.Name, slot)
		}
		order := store.NewOrder{Reason: reason, By: by, At: now}
		if spare != 0 {
			part, err := a.spareFor(ctx, spare, at)
			if err != nil {
				return err
			}
			model, order.Spares = part.Model, map[string]int64{slot: spare}
		}
		before := m.Facts.ModelAt(at)
		kit := change.Swap(at, cmp.Or(before, "unnamed"), model)
		v := fit.Verdict{Answer: fit.Fits}
		if before == machine.None || !a.store.Vocabulary(ctx).SameModel(at.Kind, before, model) {
			j, err := fit.NewJudge(kit, m.Facts.Vocabulary())
			if err != nil {
				return Refused(err)
			}
			if v = j.Verdict(m.Facts); v.Answer == fit.DoesNotFit {
				return refuse("%s on %s: does not fit. %s", kit.Name, m.Name, v.Headline)
			}
			if v.Answer == fit.LookFirst {
				v.Remarks = append(v.Remarks, "Not settled before it is fitted: "+v.Headline)
			}
		}
		id, err = a.writeOrder(ctx, m, kit, v, order)
		return err
	})
	return id, err
}

// spareFor takes a part of the shelf for the transaction that goes in at a position: one of its
// kind whose model is on record, and that no other order is to have.
func (a *App) spareFor(ctx context.Context, id int64, at *machine.Position) (store.Part, error) {
	p, err := a.store.LockPart(ctx, id)
	if err != nil {
		return p, err
	}
	other, err := a.store.SpareOf(ctx, id)
	switch {
	case err != nil:
		return p, err
	case p.Kind != at.Kind:
		return p, refuse("%s takes no such part", at.Label)
	case p.Now() != nil || p.ScrappedAt != nil:
		return p, refuse("part %s no longer lies on the shelf", cmp.Or(p.Tag, p.Model))
	case p.Model == "":
		return p, refuse("which model part %s is, is not on record: read it first", cmp.Or(p.Tag, "without a tag"))
	case other != 0:
		return p, refuse("part %s is meant for work order %d", cmp.Or(p.Tag, p.Model), other)
	}
	return p, nil
}

// positionOf is a machine's position of a key; nil where it has none.
func positionOf(m store.Machine, key string) *machine.Position {
	for _, p := range m.Facts.Structure().Positions() {
		if p.Key == key {
			return p
		}
	}
	return nil
}

// OpenFlash opens a work order for another build for the parts that are fitted.
func (a *App) OpenFlash(ctx context.Context, machineID int64, must, reason, by string, now time.Time) (int64, error) {
	if err := checkTexts([]named{{"what the build must have", must}}); err != nil {
		return 0, err
	}
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.lockForNewOrder(ctx, machineID, reason)
		if err != nil {
			return err
		}
		kit := change.Reflash(cmp.Or(must, "what this machine is fitted with"))
		id, err = a.writeOrder(ctx, m, kit, fit.Verdict{Answer: fit.Fits}, store.NewOrder{Reason: reason, By: by, At: now})
		return err
	})
	return id, err
}

// OpenHostUpdate opens a work order for an update of a machine's host.
func (a *App) OpenHostUpdate(ctx context.Context, machineID int64, reason, by string, now time.Time) (id int64,
	err error) {
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.lockForNewOrder(ctx, machineID, reason)
		if err != nil {
			return err
		}
		if m.Family() != parts.Hosted {
			return refuse("%s has no host on record: its firmware is not of the hosted family", m.Name)
		}
		id, err = a.writeOrder(ctx, m, change.HostUpdate(), fit.Verdict{Answer: fit.Fits},
			store.NewOrder{Reason: reason, By: by, At: now})
		return err
	})
	return id, err
}

// writeOrder writes the order of a change that was judged.
func (a *App) writeOrder(ctx context.Context, m store.Machine, kit fit.Kit, v fit.Verdict, o store.NewOrder) (
	int64, error) {
	c, err := change.NewChange(kit, v.Additional, m.Facts)
	if err != nil {
		return 0, Refused(err)
	}
	o.MachineID, o.KitKey, o.Kit, o.Verdict, o.State = m.ID, kit.Key, kit, v, store.Opened
	c.Delivery = v.Delivery
	o.Steps = c.WorkOrder(m.Records)
	id, err := a.store.WriteOrder(ctx, o)
	if err != nil || o.Fault == 0 && o.Task == "" {
		return id, err
	}
	// What was planned for the fault or the task is the order's from now on.
	planned := roster.FaultKey(o.Fault)
	if o.Task != "" {
		planned = roster.TaskKey(m.ID, o.Task)
	}
	return id, a.store.PlannedIsOrder(ctx, planned, roster.OrderKey(id), id)
}

// lockForNewOrder takes a machine for the transaction, and refuses work on it without a
// reason, on a retired machine, and while other work is open.
func (a *App) lockForNewOrder(ctx context.Context, machineID int64, reason string) (store.Machine, error) {
	m, err := a.lockForRepair(ctx, machineID, reason)
	if err == nil && m.Danger != nil {
		err = refuse("nothing else is done on %s before its danger is repaired (fault %d, %s). Open a work order for that "+
			"fault; parts that are changed are recorded in it", m.Name, m.Danger.Fault, m.Danger)
	}
	return m, err
}

// lockForRepair is lockForNewOrder for the repair of a fault, which goes before all else.
func (a *App) lockForRepair(ctx context.Context, machineID int64, reason string) (store.Machine, error) {
	if err := machine.PlainText(reason); err != nil {
		return store.Machine{}, refuse("say why the machine is touched: a machine that works is left alone")
	}
	m, err := a.store.LockedMachine(ctx, machineID)
	switch {
	case err != nil:
	case m.RetiredAt != nil:
		err = refuse("%s is retired", m.Name)
	case m.OpenOrder != nil:
		err = refuse("%s is locked out: work order %d is open since %s", m.Name, m.OpenOrder.ID,
			m.OpenOrder.OpenedAt.Format(civil.Shown))
	}
	return m, err
}

// begin judges a kit on a machine as it is now and writes the order's steps. rest are the
// kits that a plan has after it: where parts need what they bring, the machine is not run
// before they are in.
func (a *App) begin(ctx context.Context, m store.Machine, j *fit.Judge, rest []*fit.Judge, o store.NewOrder) (
	int64, error) {
	j = j.On(m.Facts)
	v := j.Verdict(m.Facts)
	if v.Answer == fit.DoesNotFit && len(rest) > 0 {
		until, ok, err := plan.Ahead(ctx, j, rest, m.Facts, m.Records)
		if err != nil {
			return 0, err
		}
		if ok {
			v = j.AtFitting().Verdict(m.Facts)
			v.Remarks = append(v.Remarks, "Not to be run before this is in as well: "+strings.Join(until, "; "))
		}
	}
	if v.Answer != fit.Fits && v.Answer != fit.FitsIf {
		return 0, refuse("%s on %s: %s. %s", j.Kit.Name, m.Name, v.Answer, v.Headline)
	}
	return a.writeOrder(ctx, m, j.Kit, v, o)
}

// StepChange is what a technician does to a step.
type StepChange struct {
	Version int         `json:"version"`
	Data    change.Data `json:"data"`
	Note    string      `json:"note" maxLength:"20000"`
	Do      string      `json:"do" enum:"save,tick,skip,undo" doc:"save keeps what is typed so far"`
	Why     string      `json:"why,omitempty" doc:"Reason for skipping"`
	// At is of work that went on without a connection.
	At *time.Time `json:"at,omitempty" doc:"When it was done, where that is before it is sent"`
}

// doneAt is when a step was done: as its device says, unless its clock is wrong.
func (ch StepChange) doneAt(opened, now time.Time) time.Time {
	if ch.At == nil || ch.At.Before(opened) || ch.At.After(now) {
		return now
	}
	return ch.At.In(now.Location())
}

// SaveStep keeps what was typed into a step and, as asked, ticks it, skips it with a
// reason, or undoes that. Steps are done in their order.
func (a *App) SaveStep(ctx context.Context, id int64, key string, ch StepChange, by string, now time.Time) error {
	return a.withOpen(ctx, id, func(ctx context.Context, o order) error {
		at, err := o.step(key)
		if err != nil {
			return err
		}
		step := o.StepList[at]
		if step.Version != ch.Version {
			return &Conflict{
				Sentence: "this step was changed on another screen meanwhile; what you typed is kept here, compare it with " +
					"what is there now",
				Current: step,
			}
		}
		if ch.Do != "save" {
			if err := notParked(o); err != nil {
				return err
			}
		}
		if ch.Do == "undo" {
			if err := o.progress().MayUndo(at); err != nil {
				return Refused(err)
			}
			step.DoneBy, step.DoneAt, step.SkippedWhy = "", nil, ""
			return a.store.WriteStep(ctx, id, step)
		}
		if o.progress()[at].Settled() {
			return refuse("%q is settled already; undo it before you change it", step.Title)
		}
		step.Data, step.Note = ch.Data, ch.Note
		step = masked(step)
		switch ch.Do {
		case "skip":
			if err := o.progress().MaySettle(at); err != nil {
				return Refused(err)
			}
			if err := machine.PlainText(ch.Why); err != nil {
				return refuse("a step is skipped with a reason: %s", err)
			}
			step.SkippedWhy, step.DoneBy = ch.Why, by
		case "tick":
			if err := a.mayTick(ctx, o, at, ch); err != nil {
				return err
			}
			done := ch.doneAt(o.OpenedAt, now)
			step.DoneBy, step.DoneAt = by, &done
		}
		return a.store.WriteStep(ctx, id, step)
	})
}

// AddedStep is a step of the house's own, after one that an order has.
type AddedStep struct {
	After, Title, Do string
	Keep             bool // in every later order of the kit too
}

// AddStep puts a step of the house's own into an open order, after one that is there; what was
// done after it already stays as it is.
func (a *App) AddStep(ctx context.Context, id int64, s AddedStep, by string) error {
	if err := machine.PlainText(s.Title); err != nil {
		return refuse("what is to be done: %s", err)
	}
	if err := checkTexts([]named{{"how", s.Do}}); err != nil {
		return err
	}
	return a.withOpen(ctx, id, func(ctx context.Context, o order) error {
		at, err := o.step(s.After)
		if err != nil {
			return err
		}
		if at+1 < len(o.StepList) && o.progress()[at+1].Settled() {
			return refuse("the step after %q is done already: add it further on", o.StepList[at].Title)
		}
		if len(o.StepList) >= mostSteps {
			return refuse("an order has at most %d steps; close this one and open another", mostSteps)
		}
		step := change.OwnStep(o.progress(), o.StepList[at].Phase, s.Title, s.Do, by)
		if s.Keep {
			if err := a.keepStep(ctx, o, step); err != nil {
				return err
			}
		}
		return a.store.AddStep(ctx, id, s.After, step)
	})
}

// keepStep puts a step into the task or the kit of an order, at the end of its phase.
func (a *App) keepStep(ctx context.Context, o order, step change.Step) error {
	if o.Task != "" && step.Phase == "Fit" {
		return a.keepInTask(ctx, o.Task, maintenance.TaskStep{Title: step.Title, Do: step.Do})
	}
	if step.Phase != "Fit" && step.Phase != "Wire" || strings.HasPrefix(o.KitKey, change.OwnKit) {
		return refuse("only steps of fitting and wiring are kept, in a task or a kit of the catalogue: add this one to the " +
			"order alone")
	}
	key, _, _ := strings.Cut(o.KitKey, "@") // the kit, without the head that it was for
	e, err := a.store.KitEntry(ctx, key)
	if err != nil {
		return err
	}
	phase := ""
	if step.Phase == "Wire" {
		phase = "wire"
	}
	e.Kit.Steps = append(e.Kit.Steps, fit.FittingStep{Phase: phase, Title: step.Title, Do: step.Do})
	return a.SaveKit(ctx, e.Kit, e.Version)
}

// mostSteps is how many steps an order can have.
const mostSteps = 200

// transfer is where the wires of a board that is exchanged go on the one that comes in, by the
// machine's wire sheet, or the head's; nil where no board is exchanged, nothing is written of
// its wires, or the order is closed.
func (a *App) transfer(ctx context.Context, o order) (*wiring.Transfer, error) {
	board := o.change.NewBoard()
	if board == nil || o.State != store.Opened || o.Back != nil {
		return nil, nil
	}
	sheets, err := a.store.WireSheets(ctx, o.MachineID)
	if err != nil {
		return nil, err
	}
	var loom wiring.Loom
	for _, s := range sheets {
		if s.Head == "" {
			loom = s.Sheet
		}
	}
	if len(loom.Wires)+len(loom.Motors) == 0 {
		return nil, nil
	}
	var ports []wiring.Port
	for _, p := range a.store.Vocabulary(ctx).PortsOf(board.Kind, o.change.After.Model(board.Key)) {
		ports = append(ports, wiring.Port{Name: p.Name, Ways: p.Ways, Pins: p.Pins})
	}
	t := wiring.Move(loom, ports)
	return &t, nil
}

// moved refuses to tick the step at which wires are moved while some are not ticked.
func (a *App) moved(ctx context.Context, o order, step change.Step, d change.Data) error {
	if !step.Transfers {
		return nil
	}
	t, err := a.transfer(ctx, o)
	if err != nil || t == nil {
		return err
	}
	left := 0
	for _, w := range t.Wires {
		if !slices.Contains(d.Moved, w.Key) {
			left++
		}
	}
	if left > 0 {
		return refuse("%d of %d wires are not ticked as moved yet; one that stays off is a reason to skip the step", left,
			len(t.Wires))
	}
	return nil
}

func (a *App) mayTick(ctx context.Context, o order, at int, ch StepChange) error {
	if err := a.moved(ctx, o, o.StepList[at].Step, ch.Data); err != nil {
		return err
	}
	if err := o.progress().MaySettle(at); err != nil {
		return Refused(err)
	}
	noted := strings.TrimSpace(ch.Note) != ""
	result, err := o.StepList[at].Check(ch.Data, o.machine.LastFile(), noted, o.change.After)
	if err != nil {
		return Refused(err)
	}
	return a.checkFlashed(ctx, result)
}

// withOpen does something with an order that has to be open, which is taken for the transaction.
func (a *App) withOpen(ctx context.Context, id int64, do func(context.Context, order) error) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.lockOpen(ctx, id); err != nil {
			return err
		}
		o, err := a.order(ctx, id)
		if err != nil {
			return err
		}
		return do(ctx, o)
	})
}

// lockOpen takes a work order for the transaction that has to be open.
func (a *App) lockOpen(ctx context.Context, id int64) error {
	state, err := a.store.LockOrder(ctx, id)
	if err == nil && state != store.Opened {
		err = refuse("work order %d is %s", id, state)
	}
	return err
}

// Abandon closes a work order of which nothing was done to the machine yet, or takes a
// planned one out of its plan.
func (a *App) Abandon(ctx context.Context, id int64, by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		state, err := a.store.LockOrder(ctx, id)
		if err != nil {
			return err
		}
		if state != store.Planned {
			if err := a.lockOpen(ctx, id); err != nil {
				return err
			}
			o, err := a.order(ctx, id)
			if err != nil {
				return err
			}
			if err := o.progress().MayAbandon(); err != nil {
				return Refused(err)
			}
			if err := a.unlock(ctx, o, by, now); err != nil {
				return err
			}
		}
		return a.closeOrder(ctx, id, store.Abandoned, nil, by, now)
	})
}

// Finish closes a work order all of whose steps are settled: the parts it fitted become the
// as-fitted record, what depends on the old ones is no longer valid, and what its steps
// found is recorded. minutes is the time it took; 0 counts the kit's own.
func (a *App) Finish(ctx context.Context, id int64, minutes int, by string, now time.Time) (change.Closing, error) {
	var closing change.Closing
	err := a.withOpen(ctx, id, func(ctx context.Context, o order) error {
		if o.Parked != nil {
			return notParked(o)
		}
		if err := o.progress().MayFinish(); err != nil {
			return Refused(err)
		}
		if err := a.unlock(ctx, o, by, now); err != nil {
			return err
		}
		m := o.machine
		finish, state := o.change.Finish, store.Finished
		if o.Back != nil {
			finish, state = o.change.FinishBack, store.Abandoned
		}
		f, err := finish(o.worked(), m.Records, m.LastFile(), minutes, now)
		if err != nil {
			return Refused(err)
		}
		if err := a.writeFinished(ctx, o, f, by, now); err != nil {
			return err
		}
		after, err := a.store.Machine(ctx, m.ID)
		if err != nil {
			return err
		}
		for _, found := range f.Found(after.Facts, m.Records) {
			if err := a.keepFound(ctx, after, found, id, now); err != nil {
				return err
			}
		}
		if f.Minutes > 0 {
			if err := a.store.AddLabour(ctx, m.ID, id, f.Minutes, o.OrderHead.Kit, by, now); err != nil {
				return err
			}
		}
		if after, err = a.store.Machine(ctx, m.ID); err != nil {
			return err
		}
		f.Closing.Missing = change.Missing(after.Facts, after.Records)
		closing = f.Closing
		if err := a.settleOrigin(ctx, o, by, now); err != nil {
			return err
		}
		return a.closeOrder(ctx, id, state, &closing, by, now)
	})
	return closing, err
}

// closeOrder closes an order, and takes it off the plan.
func (a *App) closeOrder(ctx context.Context, id int64, state string, closing *change.Closing, by string,
	now time.Time) error {
	if err := a.store.DropPlannedWork(ctx, roster.OrderKey(id)); err != nil {
		return err
	}
	return a.store.CloseOrder(ctx, id, state, closing, by, now)
}

func (o order) worked() []change.Worked {
	out := make([]change.Worked, len(o.StepList))
	for i, s := range o.StepList {
		out[i] = change.Worked{Step: s.Step, Data: s.Data, Note: s.Note, Done: s.DoneAt != nil, By: s.DoneBy}
		if s.DoneAt != nil {
			out[i].At = *s.DoneAt
		}
	}
	return out
}

// writeFinished writes what a finished order makes of its machine.
func (a *App) writeFinished(ctx context.Context, o order, f change.Finished, by string, now time.Time) error {
	id, m := o.ID, o.machine.ID
	if err := a.store.Invalidate(ctx, f.Closing.Invalid, store.Cause{Order: id}, now); err != nil {
		return err
	}
	for _, part := range f.Fittings {
		at := store.NewFitting{MachineID: m, Slot: part.Slot, At: now, Why: fittedIn(id), By: by, Order: id}
		var err error
		if at.Part, err = a.spareIn(ctx, o, part); err != nil {
			return err
		}
		switch {
		case part.Slot == "":
			err = a.store.Take(ctx, m, part.Takes)
		case part.From != "":
			err = a.store.Shift(ctx, part.From, at, part.Takes)
		default:
			err = a.store.Fit(ctx, at, part)
		}
		if err != nil {
			return err
		}
	}
	if err := a.store.BuildFor(ctx, m, f.BuiltFor, false); err != nil {
		return err
	}
	for _, s := range f.Settings {
		if err := a.set(ctx, m, s, id, by, now); err != nil {
			return err
		}
	}
	if f.Flashed == nil {
		return nil
	}
	return a.flashed(ctx, o.machine, *f.Flashed, by, now)
}

// spareIn is the part of the shelf that went in with a fitting; 0 where it was none, or another
// model was fitted than the spare is.
func (a *App) spareIn(ctx context.Context, o order, f change.Fitting) (int64, error) {
	id := o.Spares[f.Slot]
	if id == 0 || f.From != "" {
		return 0, nil
	}
	p, err := a.store.LockPart(ctx, id)
	switch {
	case err != nil:
		return 0, err
	case !a.store.Vocabulary(ctx).SameModel(p.Kind, p.Model, f.Traits[machine.ModelTrait]):
		return 0, nil
	case p.Now() != nil || p.ScrappedAt != nil:
		return 0, refuse("part %s was moved meanwhile and is not on the shelf; say where it is before this is finished",
			cmp.Or(p.Tag, p.Model))
	}
	return id, nil
}

// set records what work made of a fact of a part that stays, as its kit states it: the readings of what it was
// before no longer count. What a step read is recorded besides, as what somebody saw.
func (a *App) set(ctx context.Context, machineID int64, s change.Setting, order int64, by string,
	now time.Time) error {
	of, err := a.store.HeldAt(ctx, machineID, s.Key.Slot(), by, now)
	if err != nil {
		return err
	}
	how := inOrder(order) + ": " + s.Says
	if err := a.store.SetAsideOf(ctx, of, []string{s.Key.Trait()}, how, by, now); err != nil {
		return err
	}
	grade := machine.StatedGrade(s.Key.Trait(), s.Value.Text)
	r := machine.Reading{Grade: grade, TakenAt: now, By: by, How: how}
	_, err = a.store.AddReading(ctx, of, s.Key.Trait(), s.Value.Text, r)
	return err
}
