// Package carryover brings a machine's own values into the configuration of another version of its
// firmware, or tells what becomes of them in another family.
package carryover

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/dialect"
)

// State is what becomes of a value in the new version.
type State string

// States, what has to be decided first.
const (
	Conflict State = "in conflict" // the new version's own value changed too
	Renamed  State = "renamed"     // gone, and another that looks like it came
	Gone     State = "gone"        // the new version does not know it
	Kept     State = "kept"        // the machine's own value goes into the new version
	New      State = "new"         // the new version asks for it
	Same     State = "same"        // the new version has this value already
)

// Action is what is decided about a value, once for the fleet.
type Action string

// Actions.
const (
	TakeOwn  Action = "own value"
	TakeNew  Action = "new value"
	TakeName Action = "under the new name"
	LeaveOut Action = "leave out"
)

// Decision is what somebody decided about a word, for every machine of the family that goes from
// one version to the other.
type Decision struct {
	Section string `json:"section,omitempty" maxLength:"120"`
	Word    string `json:"word" minLength:"1" maxLength:"120"`
	Action  Action `json:"action" enum:"own value,new value,under the new name,leave out"`
	To      string `json:"to,omitempty" maxLength:"120" doc:"The new name, where it is renamed"`
}

// Item is one value on its way into the new version.
type Item struct {
	Section  string    `json:"section,omitempty"`
	Word     string    `json:"word"`
	State    State     `json:"state" enum:"in conflict,renamed,gone,kept,new,same"`
	Own      string    `json:"own" doc:"What this machine has; empty of new words"`
	Before   string    `json:"before,omitempty" doc:"What the old example has"`
	Now      string    `json:"now,omitempty" doc:"What the new example has"`
	To       string    `json:"to,omitempty" doc:"The new name that looks like it"`
	Line     int       `json:"line,omitempty" doc:"In the old configuration, from 1"`
	NewLine  int       `json:"newLine,omitempty" doc:"In the new example, from 1"`
	Decided  *Decision `json:"decided,omitempty"`
	Hand     string    `json:"hand,omitempty" doc:"Why somebody has to look at it"`
	Possible []Action  `json:"possible" doc:"What can be decided"`
}

// Carried is a configuration carried over.
type Carried struct {
	Items []Item `json:"items" doc:"What has to be decided first"`
	Open  int    `json:"open" doc:"How many have to be decided still"`
	Text  string `json:"-"`
	Diff  string `json:"diff" doc:"From the new example to this machine's configuration, unified"`
	// What nobody but a person can see.
	Hand []string `json:"hand" doc:"What to check by hand before it is built or started"`
}

// word is a value that counts in a document, by its name.
type word struct {
	doc   *dialect.Document
	entry *dialect.Entry
	on    bool
}

func (w word) value() string {
	if w.entry == nil || !w.on {
		return ""
	}
	v := w.doc.Value(w.entry)
	if v == "" {
		return "on"
	}
	return v
}

func (w word) written() string {
	if w.entry == nil {
		return ""
	}
	if !w.on {
		return "off"
	}
	return w.value()
}

// key tells words apart: by section and name, and in G-code by the parameter.
func key(d *dialect.Document, e *dialect.Entry) string {
	name := d.Word(e)
	switch d.Form {
	case dialect.GCode:
		if e.Letter != 0 {
			name += " " + string(e.Letter)
		}
	case dialect.Sections:
		name = strings.ToLower(name)
	}
	return d.Section(e) + "\x00" + name
}

// words are those of a document that can count, by their keys, in its order.
func words(d *dialect.Document) (map[string]word, []string) {
	out := map[string]word{}
	var order []string
	if d == nil {
		return out, nil
	}
	rank := func(f dialect.Force) int {
		return slices.Index([]dialect.Force{dialect.Excluded, dialect.CommentedOut, dialect.Undecided, dialect.InForce}, f)
	}
	for i := range d.Entries {
		e := &d.Entries[i]
		k := key(d, e)
		was, known := out[k]
		if !known {
			order = append(order, k)
		}
		if !known || rank(e.Force) >= rank(was.entry.Force) {
			out[k] = word{d, e, e.Force == dialect.InForce || e.Force == dialect.Undecided}
		}
	}
	return out, order
}

// Carry brings the values of own, a machine's configuration, into example, that of the new version.
// before is the example that own was made from; nil where it is lost: then every value of own counts
// as the machine's.
func Carry(before, own, example *dialect.Document, decisions []Decision) (Carried, error) {
	if own.Form != example.Form || before != nil && before.Form != own.Form {
		return Carried{}, fmt.Errorf("the configuration is written as %s and the new example as %s: a change of family "+
			"is another "+
			"job", own.Form, example.Form)
	}
	c := carrier{own: own, example: example}
	c.was, _ = words(before)
	c.has, c.order = words(own)
	c.is, c.news = words(example)
	c.hasBefore = before != nil
	c.items()
	c.decide(decisions)
	return c.carried()
}

type carrier struct {
	own, example *dialect.Document
	hasBefore    bool
	was, has, is map[string]word
	order, news  []string
	list         []Item
}

func split(k string) (section, name string) {
	section, name, _ = strings.Cut(k, "\x00")
	return section, name
}

// items finds what becomes of each value.
func (c *carrier) items() {
	taken := map[string]bool{}
	for _, k := range c.order {
		own, was := c.has[k], c.was[k]
		if c.hasBefore && own.entry != nil && was.entry != nil && alike(own.written(), was.written()) {
			continue // as the old version had it: not this machine's own
		}
		if !own.on && was.entry == nil {
			continue // an option that is off, of no old example
		}
		section, name := split(k)
		it := Item{Section: section, Word: name, Own: own.written(), Before: was.written(), Line: own.entry.Line}
		now, known := c.is[k]
		switch {
		case known:
			it.Now, it.NewLine = now.written(), now.entry.Line
			it.Possible = []Action{TakeOwn, TakeNew}
			switch {
			case alike(it.Own, it.Now):
				it.State = Same
			case c.hasBefore && was.entry != nil && !alike(was.written(), it.Now):
				it.State = Conflict
				it.Hand = fmt.Sprintf("the example had %s and has %s now: its meaning may have changed", it.Before, it.Now)
			default:
				it.State = Kept
			}
			if now.entry.Force == dialect.Undecided || own.entry.Force == dialect.Undecided {
				it.Hand = "whether it counts depends on a condition that cannot be decided from the file"
			}
		case was.entry == nil && c.hasBefore:
			it.State, it.Possible = Kept, []Action{TakeOwn, LeaveOut}
			it.Hand = "neither example has it, somebody added it here: see that the new version takes it"
		default:
			it.State, it.Possible = Gone, []Action{LeaveOut}
			it.Hand = "the new version does not know it: look into what took its place"
			if !c.hasBefore {
				it.Possible = []Action{TakeOwn, LeaveOut}
				it.Hand = "the new example does not have it: it is gone, or somebody added it here"
			}
			if to := c.renamed(k, taken); to != "" {
				taken[to] = true
				_, it.To = split(to)
				it.State, it.Possible = Renamed, append([]Action{TakeName}, it.Possible...)
				it.Now, it.NewLine = c.is[to].written(), c.is[to].entry.Line
				it.Hand = "it looks like " + it.To + ": is it the same, in the same unit?"
			}
		}
		c.list = append(c.list, it)
	}
	for _, k := range c.news {
		if _, known := c.has[k]; known || taken[k] || !c.is[k].on {
			continue
		}
		if _, known := c.was[k]; known {
			continue
		}
		section, name := split(k)
		c.list = append(c.list, Item{Section: section, Word: name, State: New, Now: c.is[k].written(),
			NewLine: c.is[k].entry.Line, Possible: []Action{TakeNew}})
	}
	order := []State{Conflict, Renamed, Gone, Kept, New, Same}
	slices.SortStableFunc(c.list, func(a, b Item) int {
		return cmp.Compare(slices.Index(order, a.State), slices.Index(order, b.State))
	})
}

// renamed is a word that came with the new version and looks like one that went: most of the pieces
// of its name are the same.
func (c *carrier) renamed(k string, taken map[string]bool) string {
	section, name := split(k)
	best, found := 0.5, ""
	for _, to := range c.news {
		in, other := split(to)
		if _, known := c.has[to]; known || taken[to] || in != section {
			continue
		}
		if _, known := c.was[to]; known {
			continue
		}
		if like := likeness(name, other); like > best {
			best, found = like, to
		}
	}
	return found
}

// likeness is the share of the pieces of two names that both have, from 0 to 1.
func likeness(a, b string) float64 {
	pieces := func(s string) []string {
		return strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return r == '_' || r == ' ' || r == '-' })
	}
	x, y := pieces(a), pieces(b)
	same := 0
	rest := slices.Clone(y)
	for _, p := range x {
		if i := slices.Index(rest, p); i >= 0 {
			same++
			rest = slices.Delete(rest, i, i+1)
		}
	}
	if len(x)+len(y) == 0 {
		return 0
	}
	return 2 * float64(same) / float64(len(x)+len(y))
}

// decide puts remembered decisions beside the values.
func (c *carrier) decide(decisions []Decision) {
	for i := range c.list {
		it := &c.list[i]
		for _, d := range decisions {
			if d.Section == it.Section && d.Word == it.Word && slices.Contains(it.Possible, d.Action) {
				it.Decided = &d
				if d.Action == TakeName && d.To != "" {
					it.To = d.To
				}
			}
		}
	}
}

// open reports whether a value waits for a decision.
func (it Item) open() bool {
	return it.Decided == nil && (it.State == Conflict || it.State == Renamed || it.State == Gone)
}

// carried writes the new configuration, as far as it is decided.
func (c *carrier) carried() (Carried, error) {
	out := Carried{Items: c.list, Hand: []string{}}
	if out.Items == nil {
		out.Items = []Item{}
	}
	var edits []dialect.Edit
	more := additions{own: c.own, sections: map[string][]string{}, spelled: map[string]string{}, lines: map[int]bool{}}
	for _, it := range c.list {
		k := it.Section + "\x00" + it.Word
		own := c.has[k]
		switch {
		case it.open():
			out.Open++
			out.Hand = append(out.Hand, it.says()+": "+it.Hand)
		case it.Hand != "":
			out.Hand = append(out.Hand, it.says()+": "+it.Hand)
		}
		action := Action("")
		if it.Decided != nil {
			action = it.Decided.Action
		} else if it.State == Kept {
			action = TakeOwn
		}
		switch action {
		case TakeOwn:
			if to, known := c.is[k]; known {
				edits = append(edits, c.set(to, own)...)
			} else {
				more.add(own.entry, it.Section, it.Word)
			}
		case TakeName:
			if to, known := c.is[it.Section+"\x00"+it.To]; known {
				edits = append(edits, c.set(to, own)...)
			} else {
				more.add(own.entry, it.Section, it.To)
			}
		}
	}
	for _, d := range []*dialect.Document{c.own, c.example} {
		for _, pair := range d.Twice() {
			var at []string
			for _, i := range pair {
				at = append(at, fmt.Sprint(d.Entries[i].Line))
			}
			out.Hand = append(out.Hand, fmt.Sprintf("%s is defined on lines %s, and not to the same",
				d.Word(&d.Entries[pair[0]]),
				strings.Join(at, " and ")))
		}
	}
	edits = append(edits, more.edits(c.example)...)
	var err error
	if out.Text, err = dialect.Apply(c.example.Text, edits); err != nil {
		return out, err
	}
	out.Diff, err = dialect.Diff("configuration", c.example.Text, edits)
	return out, err
}

// additions are what the new example has no place for: it is added at its end.
type additions struct {
	own      *dialect.Document
	order    []string // of sections
	sections map[string][]string
	spelled  map[string]string
	rest     []string     // of forms without sections
	lines    map[int]bool // of G-code that are added whole
}

func (a *additions) add(e *dialect.Entry, section, name string) {
	switch a.own.Form {
	case dialect.Sections:
		if a.sections[section] == nil {
			a.order = append(a.order, section)
			a.spelled[section] = a.own.Spelled(e)
		}
		a.sections[section] = append(a.sections[section], name+": "+a.own.Value(e))
	case dialect.Header:
		a.rest = append(a.rest, strings.TrimSpace("#define "+name+" "+a.own.Value(e)))
	case dialect.GCode:
		if !a.lines[e.Line] {
			a.lines[e.Line] = true
			at := a.own.WordAt(e).From
			line, _, _ := strings.Cut(a.own.Text[at:], "\n")
			a.rest = append(a.rest, strings.TrimRight(line, "\r"))
		}
	}
}

// edits are those that add them to the new example: to their section where it has it, else at its end.
func (a *additions) edits(example *dialect.Document) []dialect.Edit {
	var out []dialect.Edit
	rest := a.rest
	for _, s := range a.order {
		if add, ok := example.AddTo(s, a.sections[s]...); ok {
			out = append(out, add)
			continue
		}
		rest = append(append(rest, "["+a.spelled[s]+"]"), a.sections[s]...)
	}
	if len(rest) > 0 {
		out = append(out, example.Append(rest...))
	}
	return out
}

// says is a value as it is named in a sentence.
func (it Item) says() string {
	if it.Section != "" {
		return "[" + it.Section + "] " + it.Word
	}
	return it.Word
}

// set gives a word of the new example the value that the machine has.
func (c *carrier) set(to, own word) []dialect.Edit {
	d := c.example
	switch {
	case !own.on && !to.on:
		return nil
	case !own.on:
		return []dialect.Edit{d.Disable(to.entry)}
	}
	value := c.own.Value(own.entry)
	var out []dialect.Edit
	if !to.on && d.Form == dialect.Header {
		out = append(out, d.Enable(to.entry))
	}
	if d.Value(to.entry) != value {
		set := d.Set(to.entry, value)
		if d.Value(to.entry) == "" && value != "" {
			// The value of a bare option begins where its name ends.
			at := d.WordAt(to.entry).To
			set = dialect.Edit{Span: dialect.Span{From: at, To: at}, New: " " + value}
		}
		out = append(out, set)
	}
	return out
}
