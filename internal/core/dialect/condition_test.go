package dialect_test

import (
	"fmt"
	"go/token"
	"go/types"
	"math/rand/v2"
	"strings"
	"testing"

	"wardifex/internal/core/dialect"
)

// condition is a random condition of macros that are all known, with what it is worth by itself.
func condition(r *rand.Rand, deep int, on map[string]int) (text string, holds bool) {
	if deep == 0 || r.IntN(4) == 0 {
		name := string(rune('A' + r.IntN(6)))
		n, defined := on[name]
		switch r.IntN(5) {
		case 0:
			return "defined(" + name + ")", defined
		case 1:
			return "ENABLED(" + name + ")", defined
		case 2:
			return "DISABLED(" + name + ")", !defined
		}
		if !defined {
			return "defined " + name, false
		}
		limit := r.IntN(9)
		switch r.IntN(4) {
		case 0:
			return fmt.Sprintf("%s >= %d", name, limit), n >= limit
		case 1:
			return fmt.Sprintf("%s + 1 == %d", name, limit), n+1 == limit
		case 2:
			return fmt.Sprintf("2 * %s - 3 < %d", name, limit), 2*n-3 < limit
		}
		return fmt.Sprintf("%s != 0x%x", name, limit), n != limit
	}
	a, isA := condition(r, deep-1, on)
	b, isB := condition(r, deep-1, on)
	switch r.IntN(3) {
	case 0:
		return "(" + a + ") && (" + b + ")", isA && isB
	case 1:
		return "(" + a + ") || (" + b + ")", isA || isB
	}
	return "!(" + a + ")", !isA
}

// Where everything is known, a condition is worth what it is worth by itself, in every branch.
func TestConditionsAgainstTheirOwnWorth(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for range 3000 {
		on := map[string]int{}
		var b strings.Builder
		for c := 'A'; c <= 'F'; c++ {
			if r.IntN(2) == 0 {
				on[string(c)] = r.IntN(9)
				fmt.Fprintf(&b, "#define %c %d\n", c, on[string(c)])
			} else {
				fmt.Fprintf(&b, "//#define %c\n", c)
			}
		}
		first, isFirst := condition(r, 3, on)
		second, isSecond := condition(r, 3, on)
		fmt.Fprintf(&b, "#if %s\n#define X 1\n#elif %s\n#define X 2\n#else\n#define X 3\n#endif\n", first, second)
		want := "3"
		if isFirst {
			want = "1"
		} else if isSecond {
			want = "2"
		}
		d := read(t, dialect.Header, b.String())
		got := ""
		for i := range d.Entries {
			if e := &d.Entries[i]; d.Word(e) == "X" && e.Force == dialect.InForce {
				got += d.Value(e)
			}
		}
		if got != want || len(d.Faults) > 0 {
			t.Fatalf("%q is in force, want %q, faults %v of\n%s", got, want, d.Faults, b.String())
		}
	}
}

// Operators bind as in C, which Go's own do as far as these are mixed: its type checker works out the same.
func TestOperatorsBind(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	of := func(signs ...string) string { return signs[r.IntN(len(signs))] }
	sum := func() string {
		text := of("", "-") + fmt.Sprint(1+r.IntN(9))
		for range r.IntN(4) {
			text += of(" + ", " - ", "*", " / ") + fmt.Sprint(1+r.IntN(9))
		}
		return text
	}
	clause := func() string {
		return of("", "!") + "(" + sum() + of(" < ", ">", "<=", " >= ", " == ", "!=") + sum() + ")"
	}
	for range 3000 {
		text := sum() + of(" < ", " == ", " >= ") + sum()
		for range r.IntN(4) {
			text += of(" && ", "||") + clause()
		}
		want, err := types.Eval(token.NewFileSet(), nil, token.NoPos, text)
		if err != nil {
			t.Fatal(err)
		}
		d := read(t, dialect.Header, "#if "+text+"\n#define X true\n#else\n#define X false\n#endif\n")
		for i := range d.Entries {
			e := &d.Entries[i]
			if e.Force == dialect.Undecided || (e.Force == dialect.InForce) != (d.Value(e) == want.Value.String()) {
				t.Fatalf("%s: %s is %v, want %s", text, d.Value(e), e.Force, want.Value)
			}
		}
	}
}

// Cut anywhere, a header, sections and G-code are read, and their text is kept.
func TestCutAnywhere(t *testing.T) {
	const header = "#if ENABLED(A) && B > 2\n#define STEPS { 80, \\\n 400 } // x\n/* y\n*/\n#elif 1\n//#define C\n#endif\n"
	const sections = "[a]\nb: 1 # c\n d\n[include x]\n#*# [a]\n#*# b = 2\n"
	const codes = "echo:  M92 X80 E415:3 ; x\nN4 M587 S\"a\" P\"b\"*9\nG1 X{a}\n"
	for form, text := range map[dialect.Form]string{dialect.Header: header, dialect.Sections: sections,
		dialect.GCode: codes} {
		for i := range text {
			d := read(t, form, text[:i])
			var edits []dialect.Edit
			for j := range d.Entries {
				edits = append(edits, d.Set(&d.Entries[j], d.Value(&d.Entries[j])))
			}
			if again, err := dialect.Apply(d.Text, edits); err != nil || again != text[:i] {
				t.Errorf("%s cut at %d: %v %q", form, i, err, again)
			}
		}
	}
}
