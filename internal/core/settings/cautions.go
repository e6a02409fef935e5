package settings

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"regexp"
	"slices"
	"strings"
	"sync"

	"wardifex/internal/core/dialect"
)

// Caution is something in settings by which people or the house can come to harm.
type Caution struct {
	File string `json:"file,omitempty"`
	Line int    `json:"line" doc:"Of its file, from 1"`
	Word string `json:"word"`
	Says string `json:"says"`
}

// harmful is a word that takes a protection away, or softens it, by what it is set to.
type harmful struct {
	Family  string       `json:"family"`
	Form    dialect.Form `json:"form"`
	Section string       `json:"section"` // of sections of keys; {n} and * as in Word
	Word    string       `json:"word"`    // {n} stands for a number
	Letter  string       `json:"letter"`  // of G-code
	// One of these makes it harmful.
	Any    bool     `json:"any"` // that it is there
	Off    bool     `json:"off"` // the option is commented out, and nowhere in force
	Values []string `json:"values"`
	Above  *float64 `json:"above"`
	Below  *float64 `json:"below"`
	Says   string   `json:"says"`

	section, word *regexp.Regexp
}

//go:embed cautions.json
var shippedCautions []byte

// harms are what takes a protection away in each family. Source of the words and of what is usual: from
// memory; that four minutes is the upper limit of a watch: common practice.
var harms = sync.OnceValue(func() []harmful {
	var file struct {
		Version  int       `json:"version"`
		Cautions []harmful `json:"cautions"`
	}
	in := json.NewDecoder(bytes.NewReader(shippedCautions))
	in.DisallowUnknownFields()
	if err := in.Decode(&file); err != nil {
		panic("cautions.json: " + err.Error())
	}
	for i := range file.Cautions {
		h := &file.Cautions[i]
		h.section, h.word = standing(h.Section), standing(h.Word)
	}
	return file.Cautions
})

// standing is a name with what may stand in it: a number, or anything.
func standing(pattern string) *regexp.Regexp {
	re := strings.NewReplacer(`\{n\}`, `\d{0,2}`, `\*`, `.+`).Replace(regexp.QuoteMeta(pattern))
	return regexp.MustCompile("(?i)^" + re + "$")
}

// of says whether the rule speaks of an entry.
func (h *harmful) of(d *dialect.Document, e *dialect.Entry) bool {
	if e.Force == dialect.Excluded || e.Force == dialect.CommentedOut && !h.Off || !h.word.MatchString(d.Word(e)) {
		return false
	}
	if d.Form == dialect.GCode && !h.Any {
		return e.Letter != 0 && string(e.Letter) == h.Letter
	}
	return d.Form != dialect.Sections || h.section.MatchString(d.Section(e))
}

// by says whether the entry does harm.
func (h *harmful) by(d *dialect.Document, e *dialect.Entry) bool {
	if h.Any || h.Off {
		return h.Any || e.Force == dialect.CommentedOut
	}
	if slices.Contains(h.Values, strings.ToLower(strings.TrimSpace(d.Value(e)))) {
		return true
	}
	span := d.ValueAt(e)
	if items := d.Items(e); len(items) == 1 {
		span = items[0]
	}
	n, ok := d.Number(span)
	return ok && (h.Above != nil && n > *h.Above || h.Below != nil && n < *h.Below)
}

// Cautions are what in settings takes a protection away. Of what is set several times the last
// counts, and an option that is in force somewhere is not off.
func (s *Stated) Cautions() []Caution {
	d := s.Document
	out := []Caution{}
	for i := range harms() {
		h := &harms()[i]
		if h.Family != s.Family || h.Form != d.Form {
			continue
		}
		var order []string
		last := map[string]*dialect.Entry{} // by what is set
		for at := range d.Entries {
			e := &d.Entries[at]
			if !h.of(d, e) {
				continue
			}
			what := setBy(d, at)
			was, known := last[what]
			switch {
			case !known:
				order = append(order, what)
			case h.Off && was.Force != dialect.CommentedOut:
				continue
			}
			last[what] = e
		}
		for _, what := range order {
			e := last[what]
			if !h.by(d, e) {
				continue
			}
			file, line := d.PlaceOf(e.Line)
			out = append(out, Caution{File: d.FileName(file), Line: line, Word: d.Says(e), Says: h.Says})
		}
	}
	return out
}

// setBy tells what the entry at a place sets: a key of a section, or a parameter of a G-code word for
// the heater that its line names.
func setBy(d *dialect.Document, at int) string {
	e := &d.Entries[at]
	what := strings.ToLower(d.Word(e))
	switch d.Form {
	case dialect.Sections:
		return d.Section(e) + "\x00" + what
	case dialect.GCode:
		return what + " " + parametersOf(d, at).watched
	}
	return what
}
