// Package fittest writes verdicts down in tests by what they rest on: states, keys and numbers, never words.
package fittest

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Verdict is the answer with its lean, what is made besides, what is looked at first, and all its reasons.
func Verdict(v fit.Verdict, voc *machine.Vocabulary) string {
	b := writer{keys: map[string]string{}}
	for _, p := range voc.Slots {
		b.keys[p.Label] = p.Key
	}
	fmt.Fprintf(&b, "%s", v.Answer)
	if v.Lean != "" {
		fmt.Fprintf(&b, " leans %s", v.Lean)
	}
	if v.Head > 0 {
		fmt.Fprintf(&b, " head %d", v.Head)
	}
	for _, h := range v.Heads {
		fmt.Fprintf(&b, " %d:%s", h.Head, h.Answer)
	}
	if v.Saves {
		b.WriteString(" saves")
	}
	var further []string
	for _, f := range v.Additional {
		further = append(further, f.Key)
	}
	slices.Sort(further)
	fmt.Fprintf(&b, "; further %v; look", further)
	for _, l := range v.Look {
		fmt.Fprintf(&b, " %s%v/%s", l.Inspection.Key, l.Keys, l.Grade)
	}
	fmt.Fprintf(&b, "; decide %d; remarks %d; delivery %d; ", len(v.Decide), len(v.Remarks), len(v.Delivery))
	b.reasons(v.Reasons)
	return b.String()
}

var number = regexp.MustCompile(`[-−]?\d+(\.\d+)?`)

type writer struct {
	strings.Builder
	keys map[string]string // of positions, by their labels
}

// reasons writes how a requirement came out, with what it is made of.
func (b *writer) reasons(o fit.Outcome) {
	b.WriteString(o.Group)
	b.WriteByte('=')
	b.WriteString(o.State)
	if o.Leans != "" {
		b.WriteString("~" + o.Leans)
	}
	if o.At != "" {
		b.WriteString("@" + b.keys[o.At])
	}
	if o.Problem != "" {
		b.WriteString("!")
	}
	if o.Arithmetic != "" {
		fmt.Fprintf(b, "%v", number.FindAllString(o.Arithmetic, -1))
	}
	for _, e := range o.Evidence {
		fmt.Fprintf(b, " %s:%s/%s", e.Key, strings.ReplaceAll(e.Value, "\n", " "), e.Grade)
		if len(e.Conflict) > 0 {
			fmt.Fprintf(b, "%v", e.Conflict)
		}
	}
	if len(o.Parts) > 0 {
		b.WriteString(" (")
		for i, p := range o.Parts {
			if i > 0 {
				b.WriteString(", ")
			}
			b.reasons(p)
		}
		b.WriteString(")")
	}
}
