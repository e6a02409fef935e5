package dialect_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/dialect"
)

// placed writes what was read of several files, with the file and the line of each entry.
func placed(d *dialect.Document) string {
	var b strings.Builder
	for i := range d.Entries {
		e := &d.Entries[i]
		file, line := d.PlaceOf(e.Line)
		fmt.Fprintf(&b, "%s:%d %s", d.FileName(file), line, d.Says(e))
		if e.Force != dialect.InForce {
			fmt.Fprintf(&b, " (%s)", e.Force)
		}
		b.WriteByte('\n')
	}
	for _, f := range d.Faults {
		fmt.Fprintf(&b, "! %s:%d %s\n", f.File, f.Line, f.Says)
	}
	return b.String()
}

// Source of what each form allows: ISO C for headers; of sections and G-code from memory.
func TestFilesTakeInOthers(t *testing.T) {
	for name, tt := range map[string]struct {
		form  dialect.Form
		files []dialect.File
		want  string
	}{
		"in its place, whatever the order in which they came": {dialect.Sections, []dialect.File{
			{Name: "more.cfg", Text: "[a]\nx: 2\n"},
			{Name: "printer.cfg", Text: "[a]\nx: 1\n[include more.cfg]\n[b]\ny: 3\n"},
		}, "printer.cfg:2 [a] x: 1\nmore.cfg:2 [a] x: 2\nprinter.cfg:5 [b] y: 3\n"},
		"a file that ends without a line end": {dialect.Sections, []dialect.File{
			{Name: "m.cfg", Text: "[a]\nx: 2"}, {Name: "p.cfg", Text: "[include sub/m.cfg] # there\r\n[b]\r\ny: 3"},
		}, "m.cfg:2 [a] x: 2\np.cfg:3 [b] y: 3\n"},
		"a pattern": {dialect.Sections, []dialect.File{
			{Name: "p.cfg", Text: "[include *.cfg]\n[c]\nz: 1\n"},
			{Name: "b.cfg", Text: "[b]\ny: 1\n"}, {Name: "a.cfg", Text: "[a]\nx: 1\n"},
		}, "a.cfg:2 [a] x: 1\nb.cfg:2 [b] y: 1\np.cfg:3 [c] z: 1\n"},
		"one that is not there": {dialect.Sections, []dialect.File{
			{Name: "p.cfg", Text: "[a]\nx: 1\n[include b.cfg]\n"}, {Name: "q.cfg", Text: "[q]\nx: 1\n"},
		}, "p.cfg:2 [a] x: 1\nq.cfg:2 [q] x: 1\n! p.cfg:3 it takes in b.cfg, which is not read here: put that file on " +
			"record as well\n"},
		"a circle": {dialect.Sections, []dialect.File{
			{Name: "a.cfg", Text: "[a]\n[include b.cfg]\nx: 1\n"}, {Name: "b.cfg", Text: "[b]\ny: 1\n[include a.cfg]\n"},
		}, "b.cfg:2 [b] y: 1\na.cfg:3 [include b.cfg] x: 1\n" +
			"! b.cfg:3 it takes in a.cfg, which takes this file in again: it is read once\n"},
		"itself": {dialect.Header, []dialect.File{{Name: "a.h", Text: "#define A 1\n#include \"a.h\"\n"}},
			":1 A 1\n! :2 it takes in a.h, which takes this file in again: it is read once\n"},
		"what one header defines decides in the next": {dialect.Header, []dialect.File{
			{Name: "Config_adv.h", Text: "#if ENABLED(PROBE)\n#define X 1\n#else\n#define X 2\n#endif\n"},
			{Name: "Config.h", Text: "//#define PROBE\n"},
		}, "Config.h:1 PROBE (commented out)\nConfig_adv.h:2 X 1 (excluded)\nConfig_adv.h:4 X 2\n"},
		"under a condition, and in a comment": {dialect.Header, []dialect.File{
			{Name: "a.h", Text: "#if 0\n #include \"b.h\"\n#endif\n/*\n#include \"c.h\"\n*/\n"},
			{Name: "b.h", Text: "#define B 1\n"}, {Name: "c.h", Text: "#define C 1\n"},
		}, "b.h:1 B 1 (excluded)\nc.h:1 C 1\n"},
		"of the system": {dialect.Header, []dialect.File{{Name: "a.h", Text: "#include <stdint.h>\n#define A 1\n"}},
			":2 A 1\n! :1 #include <stdint.h>: another file, which is not read here\n"},
		"marks before the texts": {dialect.GCode, []dialect.File{
			{Name: "config.g", Text: "\ufeffM98 P\"more.g\"\nM92 E96"}, {Name: "more.g", Text: "\ufeffM92 E415\n"},
		}, "more.g:1 M92 E415\nconfig.g:1 M98 P\"more.g\"\nconfig.g:2 M92 E96\n"},
		"a script that is called": {dialect.GCode, []dialect.File{
			{Name: "config.g", Text: "M92 E95\nM98 P\"0:/sys/more.g\"\nM92 E96\n"}, {Name: "more.g", Text: "M92 E415\n"},
		}, "config.g:1 M92 E95\nmore.g:1 M92 E415\nconfig.g:2 M98 P\"0:/sys/more.g\"\nconfig.g:3 M92 E96\n"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			d, err := dialect.ReadAll(tt.form, tt.files)
			if err != nil {
				t.Fatal(err)
			}
			if got := placed(d); got != tt.want {
				t.Errorf("got\n%swant\n%s", got, tt.want)
			}
		})
	}
}

// Files that take one another in more and more often end with a sentence, soon.
func TestIncludeBomb(t *testing.T) {
	var files []dialect.File
	for i := range 40 {
		files = append(files, dialect.File{Name: fmt.Sprintf("%02d.cfg", i),
			Text: strings.Repeat(fmt.Sprintf("[include %02d.cfg]\n", i+1), 4) + "[a]\nx: 1\n"})
	}
	begun := time.Now()
	_, err := dialect.ReadAll(dialect.Sections, files)
	if err == nil || !strings.Contains(err.Error(), "larger than 8 MiB") {
		t.Errorf("got %v", err)
	}
	if took := time.Since(begun); took > 5*time.Second {
		t.Errorf("took %s", took)
	}
	half := strings.Repeat(strings.Repeat("x", 1023)+"\n", dialect.MostBytes>>11)
	for text, says := range map[string]string{half: "", half + "#\n": "together its files are larger than 8 MiB"} {
		_, err := dialect.ReadAll(dialect.Sections, []dialect.File{{Name: "a", Text: half}, {Name: "b", Text: text}})
		if (err == nil) != (says == "") || err != nil && !strings.Contains(err.Error(), says) {
			t.Errorf("got %v, want %q", err, says)
		}
	}
	deep := func(n int) string {
		var files []dialect.File
		for i := range n {
			files = append(files, dialect.File{Name: fmt.Sprintf("%03d.cfg", i), Text: fmt.Sprintf("[include %03d.cfg]\n", i+1)})
		}
		files[n-1].Text = "[a]\nx: 1\n"
		d, err := dialect.ReadAll(dialect.Sections, files)
		if err != nil {
			t.Fatal(err)
		}
		return placed(d)
	}
	if got := deep(64); got != "063.cfg:2 [a] x: 1\n" {
		t.Errorf("64 deep: %s", got)
	}
	if got := deep(65); !strings.Contains(got, "deeper than 64") || strings.Contains(got, "x: 1") {
		t.Errorf("65 deep: %s", got)
	}
}

// Setting every value of several files to itself changes none of them; setting one changes the line
// that it is told to be on, and nothing else.
func checkSplit(t *testing.T, form dialect.Form, files []dialect.File) {
	d, err := dialect.ReadAll(form, files)
	if err != nil {
		return
	}
	lines := make([][]string, len(files))
	for i, f := range files {
		lines[i] = strings.SplitAfter(f.Text, "\n")
	}
	for i := range d.Entries {
		e := &d.Entries[i]
		file, line := d.PlaceOf(e.Line)
		if line < 1 || line > len(lines[file]) || !strings.Contains(lines[file][line-1], d.Word(e)) {
			t.Fatalf("%s is not on line %d of %q", d.Word(e), line, files[file].Name)
		}
		by, err := d.Split([]dialect.Edit{d.Set(e, d.Value(e))})
		if err != nil {
			t.Fatal(err)
		}
		for at, edits := range by {
			if after, err := dialect.Apply(files[at].Text, edits); err != nil || after != files[at].Text || at != file {
				t.Fatalf("%v: %s of file %d became %q", err, d.Word(e), at, after)
			}
		}
	}
}

func FuzzIncludes(f *testing.F) {
	f.Add("[a]\nx: 1\n[include b]\ny:\n 2\n", "[b]\nz: 1", "[include a]\n[include c]")
	f.Add("#define A \\\n#include \"b\"\n#define B 1", "#if A\n#include \"c\"", "/* \n#include \"a\"")
	f.Add("M98 P\"b\"\nM92 E1", "M92 E2\nM98 P\"c\"", "M98 P\"a\"")
	f.Fuzz(func(t *testing.T, a, b, c string) {
		files := []dialect.File{{Name: "a", Text: a}, {Name: "b", Text: b}, {Name: "c", Text: c}}
		for _, form := range []dialect.Form{dialect.Header, dialect.Sections, dialect.GCode} {
			checkSplit(t, form, files)
		}
	})
}

// A masked secret is not among the lines by which a patch finds its place: the file that is patched
// has the secret there.
func TestDiffLeavesSecretsOut(t *testing.T) {
	masked := "[a]\nx: 1\n[wifi]\npassword: •••\n[b]\ny: 1\nz: 2\n"
	d := read(t, dialect.Sections, masked)
	var edits []dialect.Edit
	for i := range d.Entries {
		if word := d.Word(&d.Entries[i]); word == "x" || word == "y" {
			edits = append(edits, d.Set(&d.Entries[i], "5"))
		}
	}
	diff, err := dialect.Diff("file", masked, edits)
	if err != nil || strings.Contains(diff, "•••") {
		t.Errorf("%v\n%s", err, diff)
	}
	own := strings.ReplaceAll(masked, "•••", "hunter2")
	if got := applied(t, own, diff); got != strings.NewReplacer("x: 1", "x: 5", "y: 1", "y: 5").Replace(own) {
		t.Errorf("got %q", got)
	}
}
