package dialect_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/dialect"
)

func read(t *testing.T, form dialect.Form, text string) *dialect.Document {
	t.Helper()
	d, err := dialect.Read(form, text)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// lines writes what was read of a text, a line an entry.
func lines(d *dialect.Document) string {
	var b strings.Builder
	for i := range d.Entries {
		e := &d.Entries[i]
		fmt.Fprintf(&b, "%d %s", e.Line, d.Says(e))
		if e.Force != dialect.InForce {
			fmt.Fprintf(&b, " (%s)", e.Force)
		}
		if e.Saved {
			b.WriteString(" (saved)")
		}
		b.WriteByte('\n')
	}
	for _, f := range d.Faults {
		fmt.Fprintf(&b, "! %d %s\n", f.Line, f.Says)
	}
	return b.String()
}

// Source of what each form allows: ISO C for headers (directives, continuation, comments); of
// sections and G-code from memory.
func TestReadsEachForm(t *testing.T) {
	for name, tt := range map[string]struct {
		form       dialect.Form
		text, want string
	}{
		"options, on and off": {dialect.Header, "#define A 1 // one\r\n  //#define B 2\n// # define C\n#define D\n",
			"1 A 1\n2 B 2 (commented out)\n3 C (commented out)\n4 D\n"},
		"a list over lines": {dialect.Header, "#define STEPS { 80, 80, \\\n  400, 95 }\n#define NEXT 1\n",
			"1 STEPS { 80, 80, \\\n  400, 95 }\n3 NEXT 1\n"},
		"a comment over lines": {dialect.Header, "#define A 1 /* not\n#define B 2\n*/ #define C 3\n",
			"1 A 1\n3 C 3\n"},
		"a macro that is code": {dialect.Header, "#define F(x) (x) \\\n  + 1\n#define A 2\n", "3 A 2\n"},
		"a text with a slash":  {dialect.Header, "#define N \"a//b\" // c\n", "1 N \"a//b\"\n"},
		"conditions that hold and that do not": {dialect.Header, "#define A\n//#define B\n#define N 3\n" +
			"#if ENABLED(A) && N >= 3\n#define X 1\n#elif N > 1\n#define X 2\n#else\n#define X 3\n#endif\n" +
			"#if defined(B)\n#define Y 1\n#else\n#define Y 2\n#endif\n#ifdef A\n#define Z 1\n#endif\n",
			"1 A\n2 B (commented out)\n3 N 3\n5 X 1\n7 X 2 (excluded)\n9 X 3 (excluded)\n12 Y 1 (excluded)\n14 Y 2\n17 Z 1\n"},
		"what is not known here is told": {dialect.Header, "#if ELSEWHERE\n#define X 1\n#else\n#define X 2\n#endif\n",
			"2 X 1 (undecided)\n4 X 2 (undecided)\n! 1 #if ELSEWHERE: cannot be decided from this file\n"},
		"known whatever the unknown is": {dialect.Header, "//#define B\n#if ELSEWHERE && ENABLED(B)\n#define X 1\n#endif\n",
			"1 B (commented out)\n3 X 1 (excluded)\n"},
		"undefined again": {dialect.Header, "#define A\n#undef A\n#ifdef A\n#define X 1\n#endif\n",
			"1 A\n4 X 1 (undecided)\n! 3 #ifdef A: cannot be decided from this file\n"},
		"never closed": {dialect.Header, "#if 1\n#define X 1\n", "2 X 1\n! 1 #if 1 is never closed by #endif\n"},
		"a macro that is itself": {dialect.Header, "#define A A\n#if A\n#define X 1\n#endif\n",
			"1 A A\n3 X 1 (undecided)\n! 2 #if A: cannot be decided from this file\n"},
		"names of small letters": {dialect.Header, "#define max_z 5\n#define zAZ_09 1\n", "1 max_z 5\n2 zAZ_09 1\n"},
		"words that are none":    {dialect.GCode, "MESH 1\nGo X1\nT\nG\n X5\n", ""},
		"sections": {dialect.Sections, "[extruder]  # first\nstep_pin: PA1 ; pin\nrotation_distance = 7.7 # mm\n\n" +
			"[gcode_macro A]\ngcode:\n  G28 ; home\n  G1 X1\n[include more.cfg]\n#*# [probe]\n#*# z_offset = 1.8\n",
			"2 [extruder] step_pin: PA1\n3 [extruder] rotation_distance: 7.7\n6 [gcode_macro a] gcode: \n" +
				"11 [probe] z_offset: 1.8 (saved)\n! 9 it takes in more.cfg, which is not read here: put that file on record " +
				"as well\n"},
		"no key": {dialect.Sections, "[a]\nhello\nb: 1\n[x\n", "3 [a] b: 1\n! 2 neither a section, a key with its value, " +
			"nor a comment: hello\n! 4 a section without its closing bracket: [x\n"},
		"G-code": {dialect.GCode, "echo:  M92 X80.00 E415 ; steps\nN3 G28 W *71\nM587 S\"net\" P\"se;cret\"\n(note) \n" +
			"M906 X800 E1000:900\nG1 X{a;b}\nm117 hello\n",
			"1 M92 X80.00\n1 M92 E415\n2 G28 W\n3 M587 S\"net\"\n3 M587 P\"se;cret\"\n5 M906 X800\n5 M906 E1000:900\n" +
				"6 G1 X{a;b}\n7 m117 H\n7 m117 E\n7 m117 L\n7 m117 L\n7 m117 O\n"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			if got := lines(read(t, tt.form, tt.text)); got != tt.want {
				t.Errorf("got\n%swant\n%s", got, tt.want)
			}
		})
	}
}

// The values of a list, however they are set, and a single one.
func TestItems(t *testing.T) {
	for _, tt := range []struct {
		form dialect.Form
		text string
		want []string
	}{
		{dialect.Header, "#define STEPS {80,80, 400 , 95}\n", []string{"80", "80", "400", "95"}},
		{dialect.Header, "#define STEPS 80, 81\n", []string{"80", "81"}},
		{dialect.Header, "#define ONE 80\n", []string{"80"}},
		{dialect.Sections, "[probe]\nmesh_min: 5, 6.5\n", []string{"5", "6.5"}},
		{dialect.GCode, "M906 E1000:900\n", []string{"1000", "900"}},
	} {
		d := read(t, tt.form, tt.text)
		var got []string
		for _, at := range d.Items(&d.Entries[0]) {
			got = append(got, d.Text[at.From:at.To])
		}
		if !slices.Equal(got, tt.want) {
			t.Errorf("%q: %q, want %q", tt.text, got, tt.want)
		}
	}
}

func TestRefusesWhatIsNoText(t *testing.T) {
	for name, tt := range map[string]struct{ text, says string }{
		"binary":           {"#define A 1\n\x7fELF\x00\x01", "line 2 holds bytes that are no text"},
		"latin text":       {"#define A 1\n// \xe4\n", "line 2 is not UTF-8"},
		"just long enough": {strings.Repeat("x", dialect.MostLine-1) + "\n", ""},
		"a long line":      {"\n" + strings.Repeat("x", dialect.MostLine) + "\n", "line 2 is longer than 64 KiB"},
		"just large":       {strings.Repeat(strings.Repeat("x", 1023)+"\n", dialect.MostBytes>>10), ""},
		"too large": {strings.Repeat(strings.Repeat("x", 1023)+"\n", dialect.MostBytes>>10) + "x",
			"larger than 8 MiB"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			_, err := dialect.Read(dialect.Header, tt.text)
			if (err == nil) != (tt.says == "") || err != nil && !strings.Contains(err.Error(), tt.says) {
				t.Errorf("got %v, want %q", err, tt.says)
			}
		})
	}
}

func TestTellsTheForm(t *testing.T) {
	for text, want := range map[string]dialect.Form{
		"// configuration\n#pragma once\n#define A 1\n":                         dialect.Header,
		"# host\n[mcu]\nserial: /dev/x\n":                                       dialect.Sections,
		"; config.g\nM92 X80\nM906 X800\n":                                      dialect.GCode,
		"[gcode_macro A]\ngcode:\n  G28\n  G1 X1\n\tG1 X2\n  M117 x\n  G1 X3\n": dialect.Sections,
		"echo:  M92 X80\r\n":                                                    dialect.GCode,
		"hello":                                                                 "",
		// A section weighs as much as three lines of G-code, whose keys are not counted; the fourth decides.
		"G28\nG1 X1\nG1 X2\n[note]\n":        dialect.Sections,
		"G28\nG1 X1\nG1 X2\nG1 X3\n[note]\n": dialect.GCode,
	} {
		if got := dialect.FormOf(text); got != want {
			t.Errorf("%q is %q, want %q", text, got, want)
		}
	}
}

// A condition nested to the deepest level is decided, one deeper is not and is told.
func TestNestedConditions(t *testing.T) {
	for deep, want := range map[int]string{64: "65 X 1\n", 65: "66 X 1 (undecided)\n! 65 conditionals are nested deeper " +
		"than 64: what is inside is not decided\n"} {
		text := strings.Repeat("#if 1\n", deep) + "#define X 1\n" + strings.Repeat("#endif\n", deep)
		if got := lines(read(t, dialect.Header, text)); got != want {
			t.Errorf("%d deep: got\n%swant\n%s", deep, got, want)
		}
	}
}

// Macros that stand for more and more of each other end, undecided.
func TestMacroBomb(t *testing.T) {
	var b strings.Builder
	b.WriteString("#define A0 1\n")
	for i := 1; i < 60; i++ {
		fmt.Fprintf(&b, "#define A%d (A%d + A%d)\n", i, i-1, i-1)
	}
	b.WriteString("#if A59\n#define X 1\n#endif\n")
	if got := lines(read(t, dialect.Header, b.String())); !strings.Contains(got, "62 X 1 (undecided)") {
		t.Error(got[len(got)-200:])
	}
}

func TestTwoDefinitions(t *testing.T) {
	d := read(t, dialect.Header, "#define A 1\n#define B 2\n#define A 3\n//#define B 4\n#define C 1\n#define C 1\n")
	if got := fmt.Sprint(d.Twice()); got != "[[0 2]]" {
		t.Error(got)
	}
}

// A set value is what is read afterwards, nothing else of the text changes, and the diff does to
// the file what the edit does, by another program's reading of the form (git apply).
func TestSetAndDiff(t *testing.T) {
	for name, tt := range map[string]struct {
		form              dialect.Form
		text, word, value string
	}{
		"header":     {dialect.Header, "// a\r\n#define A 1 // one\r\n#define B 2\r\n", "A", "17"},
		"at the end": {dialect.Header, "#define A 1\n#define B 2", "B", "3"},
		"sections":   {dialect.Sections, "[a]\nb: 1 # c\n\n\n\n\n\n\n\n[c]\nd = 2\n", "d", "4.5"},
		"G-code": {dialect.GCode, strings.Repeat("G1 X1\n", 20) + "M92 E95\n" + strings.Repeat("G1 X2\n", 9), "M92",
			"415"},
		"without value": {dialect.Header, "#define A\n#define B 2\n", "B", ""},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			d := read(t, tt.form, tt.text)
			var edits []dialect.Edit
			for i := range d.Entries {
				if d.Word(&d.Entries[i]) == tt.word {
					edits = append(edits, d.Set(&d.Entries[i], tt.value))
				}
			}
			edits = append(edits, d.Append("; end"))
			after, err := dialect.Apply(tt.text, edits)
			if err != nil {
				t.Fatal(err)
			}
			again := read(t, tt.form, after)
			for i := range again.Entries {
				if e := &again.Entries[i]; again.Word(e) == tt.word && again.Value(e) != tt.value {
					t.Errorf("%s reads %q, want %q", tt.word, again.Value(e), tt.value)
				}
			}
			diff, err := dialect.Diff("file", tt.text, edits)
			if err != nil {
				t.Fatal(err)
			}
			if got := applied(t, tt.text, diff); got != after {
				t.Errorf("the diff gives %q, the edit %q\n%s", got, after, diff)
			}
		})
	}
}

// applied is a text after git apply.
func applied(t *testing.T, text, diff string) string {
	t.Helper()
	dir := t.TempDir()
	file := filepath.Join(dir, "file")
	for name, content := range map[string]string{file: text, filepath.Join(dir, "diff"): diff} {
		if err := os.WriteFile(name, []byte(content), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	cmd := exec.Command("git", "apply", "--whitespace=nowarn", "diff")
	cmd.Dir = dir
	if out, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("git apply: %v\n%s\n%s", err, out, diff)
	}
	got, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	return string(got)
}

func TestOverlappingEdits(t *testing.T) {
	a := dialect.Edit{Span: dialect.Span{From: 0, To: 3}, New: "x"}
	b := dialect.Edit{Span: dialect.Span{From: 2, To: 4}, New: "y"}
	if _, err := dialect.Apply("abcdef", []dialect.Edit{a, b}); err == nil {
		t.Error("overlapping edits were made")
	}
	if _, err := dialect.Apply("abc", []dialect.Edit{{Span: dialect.Span{From: 2, To: 9}}}); err == nil {
		t.Error("an edit outside of the text was made")
	}
}

// Whatever the text: it is kept, every span lies in it, entries are in order, and setting every
// value to itself changes nothing.
func fuzz(f *testing.F, form dialect.Form, seeds ...string) {
	for _, s := range seeds {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		d, err := dialect.Read(form, text)
		if err != nil {
			return
		}
		last := 0
		var edits []dialect.Edit
		for i := range d.Entries {
			e := &d.Entries[i]
			span := d.ValueAt(e)
			if span.From > span.To || span.To > len(text) || e.Line < last || e.Line > 1+strings.Count(text, "\n") {
				t.Fatalf("entry %d of line %d, after line %d, at %v of %d bytes", i, e.Line, last, span, len(text))
			}
			last = e.Line
			_, _, _ = d.Says(e), d.Section(e), d.Condition(e)
			for _, item := range d.Items(e) {
				if item.From > item.To || item.From < span.From || item.To > span.To {
					t.Fatalf("item %v of %v", item, span)
				}
			}
			edits = append(edits, d.Set(e, d.Value(e)))
		}
		if after, err := dialect.Apply(text, edits); err != nil || after != text {
			t.Fatalf("%v: %q became %q", err, text, after)
		}
		if diff, err := dialect.Diff("f", text, []dialect.Edit{d.Append("x")}); err != nil || diff == "" {
			t.Fatalf("no diff of an added line: %v", err)
		}
		d.Twice()
	})
}

func FuzzHeader(f *testing.F) {
	fuzz(f, dialect.Header, "#define A { 1, \\\n2 }\n#if A\n//#define B\n#endif\n/* x", "#if (((A\n#define A\\\n\\",
		"#elif\n#else\n")
}

func FuzzSections(f *testing.F) {
	fuzz(f, dialect.Sections, "[a]\nb: c\n d\n#*# [e]\n#*# f = 1\n", "=\n[\n:", " x\n[]")
}

func FuzzGCode(f *testing.F) {
	fuzz(f, dialect.GCode, "M92 X80 E415:3 ; x\nN1 G28*2\nM587 S\"a", "echo: G", "G1 X{")
}
