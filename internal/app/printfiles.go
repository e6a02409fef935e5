package app

import (
	"bufio"
	"cmp"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"wardifex/internal/core/printfile"
	"wardifex/internal/core/quantity"
	"wardifex/internal/core/settings"
	"wardifex/internal/store"
)

// mostPacked is by how much a packed file may grow when it is unpacked, beyond what any may: G-code
// packs to a fifth or so. Source: from memory.
const (
	mostPacked  = 100
	packedSlack = 64 << 20
)

// unpacked reads a file plain or packed by gzip, whatever its name says. The error is of one that
// grows beyond what G-code does.
type unpacked struct {
	from  io.Reader // plain
	sent  *countedReader
	plain int64
	is    bool // packed
}

type countedReader struct {
	io.Reader
	n int64
}

func (c *countedReader) Read(p []byte) (int, error) {
	n, err := c.Reader.Read(p)
	c.n += int64(n)
	return n, err
}

func openPacked(from io.Reader) (*unpacked, error) {
	sent := &countedReader{Reader: from}
	buffered := bufio.NewReaderSize(sent, 64<<10)
	head, err := buffered.Peek(2)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	u := &unpacked{from: buffered, sent: sent}
	if len(head) == 2 && head[0] == 0x1f && head[1] == 0x8b {
		z, err := gzip.NewReader(buffered)
		if err != nil {
			return nil, refuse("the file begins as if it were packed by gzip, and is not: pack it again, or send it plain")
		}
		u.from, u.is = z, true
	}
	return u, nil
}

func (u *unpacked) Read(p []byte) (int, error) {
	n, err := u.from.Read(p)
	u.plain += int64(n)
	switch {
	case u.is && u.plain > packedSlack+mostPacked*u.sent.n:
		return n, refuse("unpacked the file grows to more than %d times its size: no G-code does that; send it plain",
			mostPacked)
	case u.is && (errors.Is(err, gzip.ErrChecksum) || errors.Is(err, gzip.ErrHeader) || errors.Is(err,
		io.ErrUnexpectedEOF)):
		return n, refuse("the packed file is damaged or cut off after %d bytes unpacked: send it again", u.plain)
	}
	return n, err
}

// FileOnMachine is a file judged on one machine.
type FileOnMachine struct {
	Machine Usable                `json:"machine"`
	Verdict printfile.FileVerdict `json:"verdict"`
	Was     printfile.Answer      `json:"was,omitempty" doc:"What was answered when the file came, where that was better"`
}

// readers are the accounts of which a file is being read, so that one of them does not keep all others out.
type readers struct {
	mu sync.Mutex
	of map[int64]bool
}

// begin reports whether an account may send a file; 0 is the application itself, which may always.
func (r *readers) begin(account int64) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.of[account] {
		return false
	}
	if r.of == nil {
		r.of = map[int64]bool{}
	}
	r.of[account] = account != 0
	return true
}

func (r *readers) end(account int64) {
	r.mu.Lock()
	defer r.mu.Unlock()
	delete(r.of, account)
}

// JudgedFile is a sliced file judged on every machine.
type JudgedFile struct {
	ID       int64                    `json:"id"`
	Name     string                   `json:"name"`
	Bytes    int64                    `json:"bytes" doc:"As it was sent"`
	AddedBy  string                   `json:"addedBy"`
	AddedAt  time.Time                `json:"addedAt"`
	Lines    int64                    `json:"lines"`
	Size     string                   `json:"size"     doc:"What it prints, in X, Y and Z"`
	Takes    string                   `json:"takes"    doc:"Printing time"`
	Filament string                   `json:"filament" doc:"Metres, by tool"`
	Hints    printfile.Hints          `json:"hints"`
	Labels   int64                    `json:"labels"   doc:"Objects that are labelled"`
	Machines []FileOnMachine          `json:"machines" doc:"Those that it prints on and that are free first"`
	Answers  map[printfile.Answer]int `json:"answers"  doc:"How many machines are of which answer"`
}

// JudgeFile reads a sliced file as it comes, judges it on every machine, and keeps what it does, not
// what is in it. Nothing is kept of a file that cannot be read.
func (a *App) JudgeFile(ctx context.Context, account int64, name, by string, from io.Reader, now time.Time) (JudgedFile,
	error) {
	name = filepath.Base(strings.ReplaceAll(strings.TrimSpace(name), `\`, "/"))
	if err := checkTexts([]named{{"name of the file", name}}); err != nil {
		return JudgedFile{}, err
	}
	if !a.reading.begin(account) {
		return JudgedFile{}, refuse("another file of yours is being read: send this one when that is done")
	}
	defer a.reading.end(account)
	if !a.scans.TryAcquire(1) {
		return JudgedFile{}, refuse("%d files are being read at this moment: try again in a minute", scansAtOnce)
	}
	defer a.scans.Release(1)
	u, err := openPacked(from)
	if err != nil {
		return JudgedFile{}, err
	}
	p, err := printfile.Scan(ctx, u, nil)
	var refused *Refusal
	switch {
	case errors.As(err, &refused):
		return JudgedFile{}, refused
	case err != nil && ctx.Err() != nil:
		return JudgedFile{}, ctx.Err()
	case err != nil:
		return JudgedFile{}, refuse("the file %s: %v", name, err)
	}
	f := store.PrintFile{Name: name, Bytes: u.sent.n, Profile: p, AccountID: account, AddedBy: by, AddedAt: now}
	fleet, err := a.fleetNow(ctx, now, p.CallsMacros())
	if err != nil {
		return JudgedFile{}, err
	}
	out := fleet.judge(f)
	f.Answers = map[int64]printfile.Answer{}
	for _, m := range out.Machines {
		f.Answers[m.Machine.ID] = m.Verdict.Answer
	}
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		out.ID, err = a.store.AddPrintFile(ctx, f)
		return err
	})
	return out, err
}

// JudgedFile judges a file that is known on the machines as they are now.
func (a *App) JudgedFile(ctx context.Context, id int64, now time.Time) (JudgedFile, error) {
	f, err := a.store.PrintFile(ctx, id)
	if err != nil {
		return JudgedFile{}, err
	}
	fleet, err := a.fleetNow(ctx, now, f.Profile.CallsMacros())
	if err != nil {
		return JudgedFile{}, err
	}
	return fleet.judge(f), nil
}

// fleetNow is what files are judged against: the machines as they are, and when each is taken.
type fleetNow struct {
	app      *App
	machines []store.Machine
	words    *settings.Words
	macros   map[int64]*settings.Macros
	ahead    taken
	now      time.Time
}

// fleetNow gives the fleet as files are judged against it, with the macros of its configurations where files call any.
func (a *App) fleetNow(ctx context.Context, now time.Time, macros bool) (f fleetNow, err error) {
	f.app, f.now = a, now
	if macros {
		if f.macros, err = a.macros(ctx, 0); err != nil {
			return f, err
		}
	}
	if f.machines, err = a.store.Fleet(ctx); err != nil {
		return f, err
	}
	if f.words, err = a.words(ctx); err != nil {
		return f, err
	}
	f.ahead, err = a.takenAhead(ctx, now)
	return f, err
}

// machine is one as a file is judged on it.
func (now fleetNow) machine(m *store.Machine) printfile.Machine {
	return printfile.Machine{Facts: m.Facts, Records: m.Records, Words: now.words, Macros: now.macros[m.ID]}
}

func (now fleetNow) judge(f store.PrintFile) JudgedFile {
	p := f.Profile
	out := JudgedFile{ID: f.ID, Name: f.Name, Bytes: f.Bytes, AddedBy: f.AddedBy, AddedAt: f.AddedAt, Lines: p.Lines,
		Size: sizeOf(p), Takes: p.Hours(), Filament: filamentOf(p), Hints: p.Hints, Labels: p.Labels,
		Machines: []FileOnMachine{}, Answers: map[printfile.Answer]int{}}
	for i := range now.machines {
		m := &now.machines[i]
		on := FileOnMachine{Machine: now.app.usable(m, now.now),
			Verdict: printfile.Judge(p, now.machine(m))}
		on.Machine.Taken, on.Machine.Next = now.ahead.of(m.ID, now.now)
		if was := f.Answers[m.ID]; was != "" && was.Rank() < on.Verdict.Answer.Rank() {
			on.Was = was
		}
		out.Answers[on.Verdict.Answer]++
		out.Machines = append(out.Machines, on)
	}
	slices.SortStableFunc(out.Machines, func(x, y FileOnMachine) int {
		return cmp.Or(cmp.Compare(x.Verdict.Answer.Rank(), y.Verdict.Answer.Rank()), cmp.Compare(freedom(x.Machine),
			freedom(y.Machine)),
			cmp.Compare(since(x.Machine.Taken), since(y.Machine.Taken)), strings.Compare(x.Machine.Name, y.Machine.Name))
	})
	return out
}

func sizeOf(p *printfile.Profile) string {
	var out []string
	for axis := range 3 {
		low, high, ok := p.Used.Bounds(axis)
		if !ok {
			return ""
		}
		if axis == 2 {
			low = 0
		}
		says := fmt.Sprintf("%.0f", high-low)
		if high-low < 10 { // of a flat print the tenths tell something
			says = quantity.Format(math.Round(10*(high-low)) / 10)
		}
		out = append(out, says)
	}
	return strings.Join(out, " × ") + " mm"
}

func filamentOf(p *printfile.Profile) string {
	var out []string
	for _, t := range p.Tools {
		if t.Filament <= 0 {
			continue
		}
		says := fmt.Sprintf("%.1f m", t.Filament/1000)
		if len(p.Tools) > 1 {
			says = fmt.Sprintf("T%d: %s", t.Tool, says)
		}
		out = append(out, says)
	}
	return strings.Join(out, ", ")
}

// ForgetFile forgets a file: whoever sent it, or staff.
func (a *App) ForgetFile(ctx context.Context, id, account int64, staff bool, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		f, err := a.store.PrintFile(ctx, id)
		if err != nil {
			return err
		}
		if !staff && f.AccountID != account {
			return refuse("the file %s was sent by %s: it is theirs to take away, or the staff's", f.Name, f.AddedBy)
		}
		return a.store.EndPrintFile(ctx, id, now)
	})
}

// KeepFile undoes ForgetFile. It is for whoever sent the file, and for staff.
func (a *App) KeepFile(ctx context.Context, id, account int64, staff bool) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.KeepPrintFile(ctx, id, account, staff) })
}

// FilePatch writes the repairs of a file for one machine.
func (a *App) FilePatch(ctx context.Context, id, machineID int64, now time.Time) (string, string, error) {
	j, err := a.JudgedFile(ctx, id, now)
	if err != nil {
		return "", "", err
	}
	for _, m := range j.Machines {
		if m.Machine.ID == machineID {
			return j.Name, printfile.Patch(j.Name, m.Verdict), nil
		}
	}
	return "", "", ErrNotFound
}
