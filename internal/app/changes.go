package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/store"
)

// Change is what one person did at once, with all that it changed.
type Change struct {
	ID      int64        `json:"id" doc:"Of the last event in it; those before it come next"`
	At      time.Time    `json:"at"`
	By      string       `json:"by" doc:"Name as it was shown then"`
	Account string       `json:"account" doc:"Name that the account signs in with; empty where no account did it"`
	Action  string       `json:"action" doc:"The operation, such as move-part"`
	Machine string       `json:"machine" doc:"Of the first machine that it concerns; empty when none"`
	Lines   []ChangeLine `json:"lines"`
	More    int          `json:"more" doc:"How many further lines there are"`
}

// ChangeLine is one thing that was added, changed or erased.
type ChangeLine struct {
	MachineID int64  `json:"machineId,omitempty"`
	PartID    int64  `json:"partId,omitempty"`
	What      string `json:"what" doc:"What kind of thing, in words"`
	Done      string `json:"done" enum:"added,changed,erased,noted"`
	Text      string `json:"text" doc:"What it says; of a change what each value was and is"`
}

// mostLines bounds what is shown of one change.
const mostLines = 12

// ChangesOf says whose changes are wanted; what is zero narrows nothing.
type ChangesOf struct {
	Machine, Part int64
	Thing         string // "kit", "order", "fault", "build", "catalogue entry" …
	Key           string // of that thing
	Account       string // name that it signs in with
	Before        int64
	Limit         int
}

// things are the tables, by the words for one of their rows.
var things = map[string]string{
	"machine": "machines", "part": "parts", "position of a part": "fittings", "reading": "readings", "kit": "kits",
	"order": "work_orders", "step": "work_steps", "picture": "photos", "calibration": "calibrations",
	"end of a calibration": "calibration_invalid", "meter reading": "meters", "maintenance done": "upkeep_done",
	"catalogue entry": "catalogue_entries", "working time": "labour", "unreadable mark": "unreadable", "fault": "faults",
	"availability": "machine_uses", "wire sheet": "wire_sheets", "saved question": "questions", "position": "positions",
	"use of a capacity": "takings", "build": "builds", "run of a build": "build_runs", "time zone": "shop_zones",
	"import": "imports", "account": "users",
}

func thingOf(relation string) string {
	for thing, of := range things {
		if of == relation {
			return thing
		}
	}
	return relation
}

// Changes lists who did what, the newest first.
func (a *App) Changes(ctx context.Context, of ChangesOf) ([]Change, error) {
	want := store.ActsOf{Machine: of.Machine, Part: of.Part, Subject: of.Key, Before: of.Before, Limit: of.Limit,
		Each: mostLines}
	if of.Thing != "" {
		relation, ok := things[of.Thing]
		if !ok {
			return nil, refuse(
				"%q is nothing that is on record; there are machines, parts, kits, orders, faults, builds and the like",
				of.Thing,
			)
		}
		want.Relations = []string{relation}
		if of.Thing == "order" {
			want.Relations = append(want.Relations, "work_steps", "photos")
		}
	}
	if of.Account != "" {
		u, err := a.store.UserNamed(ctx, of.Account)
		if err != nil {
			return nil, err
		}
		want.Account = u.ID
	}
	acts, err := a.store.Acts(ctx, want)
	if err != nil {
		return nil, err
	}
	out := []Change{}
	var transaction int64
	for _, act := range acts {
		if len(out) == 0 || act.Transaction != transaction {
			transaction = act.Transaction
			c := Change{ID: act.Last, At: act.At, By: act.Actor, Account: act.Account, Action: act.Action,
				Lines: []ChangeLine{}, More: max(0, act.Of-mostLines)}
			if act.Action == "" {
				c.Action = "by itself"
			}
			out = append(out, c)
		}
		c := &out[len(out)-1]
		if c.Machine == "" {
			c.Machine = act.Machine
		}
		c.Lines = append(c.Lines, lineOf(act, a.now().Location()))
	}
	return out, nil
}

func lineOf(act store.Act, in *time.Location) ChangeLine {
	line := ChangeLine{What: thingOf(act.Relation)}
	if act.MachineID != nil {
		line.MachineID = *act.MachineID
	}
	if act.PartID != nil {
		line.PartID = *act.PartID
	}
	was, is := fieldsOf(act.Was, in), fieldsOf(act.IsNow, in)
	switch act.Done {
	case "insert":
		line.Done = "added"
		if n, many := is["rows"]; many && len(is) == 1 {
			line.Text = n + " of them"
		} else {
			line.Text = telling(is)
		}
	case "update":
		line.Done = "changed"
		var parts []string
		for _, name := range sortedKeys(was) {
			parts = append(parts, fmt.Sprintf("%s: %s → %s", worded(name), orNothing(was[name]), orNothing(is[name])))
		}
		line.Text = strings.Join(parts, "; ")
		if act.Subject != "" {
			line.What += " " + act.Subject
		}
	case "delete":
		line.Done, line.Text = "erased", telling(was)
	default:
		line.Done, line.Text = "noted", telling(is)
	}
	return line
}

// tells are the columns that say what a row is, in the order in which they are shown.
var tells = []string{
	"result", "name", "display_name", "role", "title", "key", "section", "kind", "slot", "trait", "subject", "value",
	"hours", "task",
	"state", "use", "what", "words", "answer", "reason", "why", "minutes", "board", "zone", "file", "address", "note",
	"step_key",
}

func telling(fields map[string]string) string {
	var parts []string
	for _, name := range tells {
		if text := fields[name]; text != "" {
			parts = append(parts, text)
		}
	}
	return strings.Join(parts, ", ")
}

// fieldsOf are a row's columns as texts that fit on a line, moments in the shop's time.
func fieldsOf(row json.RawMessage, in *time.Location) map[string]string {
	var values map[string]any
	if len(row) == 0 || json.Unmarshal(row, &values) != nil {
		return nil
	}
	out := make(map[string]string, len(values))
	for name, v := range values {
		switch v := v.(type) {
		case nil:
			out[name] = ""
		case string:
			if at, err := time.Parse(time.RFC3339, v); err == nil {
				v = at.In(in).Format(civil.Moment)
			}
			out[name] = short(v)
		case map[string]any, []any:
			text, _ := json.Marshal(v) // came out of JSON
			out[name] = short(string(text))
		default:
			out[name] = fmt.Sprint(v)
		}
	}
	return out
}

// mostText bounds one value as it is shown, in characters.
const mostText = 160

func short(text string) string {
	runes := []rune(text)
	if len(runes) > mostText {
		return string(runes[:mostText-1]) + "…"
	}
	return text
}

func orNothing(text string) string {
	if text == "" {
		return "(empty)"
	}
	return text
}

func worded(column string) string { return strings.ReplaceAll(column, "_", " ") }

func sortedKeys(m map[string]string) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}
