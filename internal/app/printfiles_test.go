package app_test

import (
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"testing/iotest"

	"wardifex/internal/app"
	"wardifex/internal/core/drift"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/printfile"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

const sliced = "; nozzle_diameter = 0.4\nM140 S60\nM104 S210\nG28\nM82\nG1 Z0.2 F1200\nG1 X2 Y20\nG1 X200 Y20 " +
	"E9\nG1 X200 Y60 E12\nM104 S0\nM140 S0\n"

// printer are the facts of a machine that sliced prints on.
var printer = map[string]string{"firmware.family": "compiled", "frame.x": "220", "frame.y": "220", "frame.z": "250",
	"hotend.rating": "300", "hotend.liner": "no", "probe.model": "none", "nozzle.bore": "0.4", "bed-heater.model": "x"}

func packed(t *testing.T, from io.Reader) []byte {
	t.Helper()
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, err := io.Copy(z, from)
	must(t, err)
	must(t, z.Close())
	return b.Bytes()
}

func with(known map[string]string, key, value string) map[string]string {
	out := map[string]string{}
	for k, v := range known {
		out[k] = v
	}
	out[key] = value
	return out
}

// A file is judged on every machine, plain or packed; one that a machine was made too small for since
// is named as stale there, and whoever sent it may take it away, no other member.
func TestAFileOnEveryMachine(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	large := add(t, s, "Avocet", printer)
	add(t, s, "Bittern", with(printer, "frame.x", "180"))
	account := addUser(t, s, "mira")
	for name, from := range map[string]io.Reader{"plain.gcode": strings.NewReader(sliced),
		"packed.gcode.gz": bytes.NewReader(packed(t, strings.NewReader(sliced)))} {
		f, err := does(s).JudgeFile(ctx, account, `C:\prints\`+name, "Mira", from, now)
		must(t, err)
		if f.Name != name || len(f.Machines) != 2 || f.Machines[0].Machine.Name != "Avocet" ||
			f.Machines[0].Verdict.Answer != printfile.Prints || f.Machines[1].Verdict.Answer != printfile.DoesNot {
			t.Errorf("%+v", f)
		}
	}
	must(t, reads(s, large, "frame.x", "150", machine.Reading{Grade: machine.Proven, How: "measured", By: "x",
		TakenAt: now}, now))
	known, err := does(s).KnownFiles(ctx, large, store.Cut{}, now)
	must(t, err)
	list := known.Rows
	if len(list) != 2 || len(list[0].Stale) != 1 || list[0].Stale[0] != "Avocet" ||
		list[0].Here.Answer != printfile.DoesNot {
		t.Errorf("%+v", list)
	}
	refused(t, does(s).ForgetFile(ctx, list[0].ID, account+1, false, now), "was sent by Mira")
	must(t, does(s).ForgetFile(ctx, list[0].ID, account, false, now))
	if err := does(s).KeepFile(ctx, list[0].ID, account+1, false); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("another member puts it back: %v", err)
	}
	must(t, does(s).KeepFile(ctx, list[0].ID, account, false))
	if known, err = does(s).KnownFiles(ctx, 0, store.Cut{}, now); err != nil || known.Found != 2 {
		t.Errorf("put back: %+v, %v", known, err)
	}
	must(t, does(s).ForgetFile(ctx, list[0].ID, account, false, now))
	must(t, does(s).ForgetFile(ctx, list[1].ID, account+1, true, now))
	if known, err = does(s).KnownFiles(ctx, 0, store.Cut{}, now); err != nil || known.Found != 0 {
		t.Errorf("%v, %v", known, err)
	}
}

// What is kept of a file's answers holds as long as the machine and the shop's words are as they were, and no longer;
// the list says how long it is.
func TestKnownFilesAreKept(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a := does(s)
	id := add(t, s, "Avocet", printer)
	add(t, s, "Bittern", printer)
	for i := range 7 {
		_, err := a.JudgeFile(ctx, 0, fmt.Sprint(i, ".gcode"), "Mira", strings.NewReader(sliced), now)
		must(t, err)
	}
	stands := func(what string, prints, stale int) {
		t.Helper()
		for range 2 { // judged and as it is kept
			list, err := a.KnownFiles(ctx, id, store.Cut{Offset: 2, Limit: 3}, now)
			must(t, err)
			if list.Found != 7 || len(list.Rows) != 3 || list.Rows[0].Name != "4.gcode" {
				t.Fatalf("%s: %+v", what, list)
			}
			for _, f := range list.Rows {
				if f.Answers[printfile.Prints] != prints || len(f.Stale) != stale {
					t.Errorf("%s: %s prints on %d, stale on %v", what, f.Name, f.Answers[printfile.Prints], f.Stale)
				}
			}
		}
	}
	stands("at first", 2, 0)
	small := machine.Reading{Grade: machine.Proven, How: "measured", By: "x", TakenAt: now}
	must(t, reads(s, id, "frame.x", "150", small, now))
	stands("with a smaller frame", 1, 1)
}

// lines is a text without end of what packs best.
type lines struct{ left int64 }

func (l *lines) Read(p []byte) (int, error) {
	if l.left <= 0 {
		return 0, io.EOF
	}
	n := min(int64(len(p)), l.left)
	for i := range n {
		p[i] = '\n'
	}
	l.left -= n
	return int(n), nil
}

// A script on the card of a machine decides what a file leaves to it, from the moment it is on record; a text of
// another place does not.
func TestAFileThatCallsAScript(t *testing.T) {
	t.Parallel()
	for place, counts := range map[drift.Where]bool{drift.StoredSettings: true, drift.CardFile: true,
		drift.StartCode: false} {
		s := pgtest.Store(t)
		id := add(t, s, "Avocet", with(printer, "firmware.family", "scripted"))
		file, err := does(s).JudgeFile(ctx, 0, "calls.gcode", "Mira",
			strings.NewReader(strings.Replace(sliced, "G28\n", "M98 P\"0:/macros/begin.g\"\n", 1)), now)
		must(t, err)
		answer := func() printfile.Answer {
			f, err := does(s).JudgedFile(ctx, file.ID, now)
			must(t, err)
			return f.Machines[0].Verdict.Answer
		}
		if got := answer(); got != printfile.LookFirst {
			t.Errorf("with no script on record: %s", got)
		}
		for _, step := range []struct {
			text string
			want printfile.Answer
		}{{"M117 hello\n", printfile.DoesNot}, {"G28\n", printfile.Prints}} {
			_, err = does(s).AddSettings(ctx, app.NewSettings{MachineID: id, Place: place, Name: "begin.g",
				Text: []byte(step.text)}, "Ansa", now)
			must(t, err)
			want := step.want
			if !counts {
				want = printfile.LookFirst
			}
			if got := answer(); got != want {
				t.Errorf("with %q as %s: %s, want %s", step.text, place, got, want)
			}
		}
	}
}

// What is no file leaves nothing behind: cut off, damaged, a bomb, a source that breaks off.
func TestAFileThatIsNone(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	whole := packed(t, strings.NewReader(strings.Repeat(sliced, 200)))
	damaged := bytes.Clone(whole)
	damaged[len(damaged)-6] ^= 0xff
	for name, tt := range map[string]struct {
		from io.Reader
		says string
	}{
		"cut off":       {bytes.NewReader(whole[:len(whole)/2]), "damaged or cut off"},
		"damaged":       {bytes.NewReader(damaged), "damaged or cut off"},
		"only its mark": {bytes.NewReader(whole[:3]), "begins as if it were packed"},
		"a bomb":        {bytes.NewReader(packed(t, &lines{200 << 20})), "no G-code does that"},
		"empty":         {strings.NewReader(""), "the file is empty"},
		"a picture":     {strings.NewReader("\x89PNG\r\n\x1a\n\x00\x00"), "no text"},
		"breaks off":    {io.MultiReader(strings.NewReader(sliced), iotest.ErrReader(errors.New("reset"))), "broke off"},
	} {
		_, err := does(s).JudgeFile(ctx, 0, name, "x", tt.from, now)
		refused(t, err, tt.says)
	}
	files, err := s.KnownPrintFiles(ctx, store.Cut{})
	must(t, err)
	if files.Found != 0 {
		t.Errorf("%d files were kept", files.Found)
	}
}

// One account has one file read at a time: others have their turn, however slowly its file comes.
func TestOneFileOfAnAccountIsRead(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a := does(s)
	slow, other := addUser(t, s, "slow"), addUser(t, s, "mira")
	from, to := io.Pipe()
	done := make(chan error)
	go func() {
		_, err := a.JudgeFile(ctx, slow, "slow.gcode", "Slow", from, now)
		done <- err
	}()
	_, err := to.Write([]byte(sliced))
	must(t, err)
	_, err = a.JudgeFile(ctx, slow, "second.gcode", "Slow", strings.NewReader(sliced), now)
	refused(t, err, "another file of yours")
	_, err = a.JudgeFile(ctx, other, "plain.gcode", "Mira", strings.NewReader(sliced), now)
	must(t, err)
	must(t, to.Close())
	must(t, <-done)
	_, err = a.JudgeFile(ctx, slow, "second.gcode", "Slow", strings.NewReader(sliced), now)
	must(t, err)
}

func addUser(t *testing.T, s *store.Store, name string) int64 {
	t.Helper()
	id, err := s.AddUser(ctx, store.User{Name: name, DisplayName: "Mira", Role: store.Member, PasswordHash: "x",
		CreatedAt: now})
	must(t, err)
	return id
}

// An order that changes the start code names the known files that print now and will not afterwards.
func TestFilesThatAnOrderMakesStale(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	known := with(fitting, "frame.x", "220")
	for k, v := range printer {
		known[k] = v
	}
	id := add(t, s, "Avocet", known)
	probing := strings.Replace(sliced, "G28\n", "G28\nG29\n", 1)
	for name, text := range map[string]string{"plain.gcode": sliced, "probing.gcode": probing} {
		_, err := does(s).JudgeFile(ctx, 0, name, "Mira", strings.NewReader(text), now)
		must(t, err)
	}
	order, err := does(s).OpenWork(ctx, id, "plumbline-probe", "a feature somebody needs", "x", now)
	must(t, err)
	stale, err := does(s).StaleFiles(ctx, order)
	must(t, err)
	if len(stale) != 1 || stale[0].Name != "plain.gcode" || !strings.Contains(stale[0].Why, "neither probes a mesh") {
		t.Errorf("%+v", stale)
	}
}
