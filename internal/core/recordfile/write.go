package recordfile

import (
	"bytes"
	"encoding/json"
	"io"
)

// Writer writes a record file piece by piece: however large the fleet is, one part or one machine of it is in memory.
// Begin comes first, then the parts, the builds, the machines, and End.
type Writer struct {
	to   io.Writer
	list string // the list that is being written; empty between two
	some bool   // it has an element
	err  error
}

// NewWriter returns a writer to something.
func NewWriter(to io.Writer) *Writer { return &Writer{to: to} }

// Begin writes what heads a file: the catalogue and, of a whole fleet, its kits.
func (w *Writer) Begin(f File) error {
	w.text("{\n")
	w.field("format", Format, "")
	w.field("version", Version, ",\n")
	w.field("catalogue", f.Catalogue, ",\n")
	if len(f.Kits) > 0 {
		w.field("kits", f.Kits, ",\n")
	}
	w.open("parts")
	return w.err
}

// Part writes a part with its readings.
func (w *Writer) Part(p Part) error { return w.element("parts", p) }

// Builds writes the firmware builds, once.
func (w *Writer) Builds(list []Build) error {
	w.shut()
	if len(list) > 0 {
		w.field("builds", list, ",\n")
	}
	return w.err
}

// Machine writes a machine with its history.
func (w *Writer) Machine(m Machine) error { return w.element("machines", m) }

// End writes what ends a file: of a whole fleet its questions and tasks.
func (w *Writer) End(f File) error {
	if w.list != "machines" {
		w.open("machines")
	}
	w.shut()
	if len(f.Questions) > 0 {
		w.field("questions", f.Questions, ",\n")
	}
	if len(f.Tasks) > 0 {
		w.field("tasks", f.Tasks, ",\n")
	}
	w.text("\n}\n")
	return w.err
}

func (w *Writer) text(s string) {
	if w.err == nil {
		_, w.err = io.WriteString(w.to, s)
	}
}

func (w *Writer) field(name string, of any, before string) {
	w.text(before + " \"" + name + "\": ")
	w.value(of, " ")
}

func (w *Writer) value(of any, indent string) {
	if w.err != nil {
		return
	}
	var text []byte
	if text, w.err = json.MarshalIndent(of, indent, " "); w.err == nil {
		_, w.err = w.to.Write(bytes.TrimSpace(text))
	}
}

func (w *Writer) open(list string) {
	w.shut()
	w.list, w.some = list, false
	w.text(",\n \"" + list + "\": [")
}

func (w *Writer) shut() {
	if w.list == "" {
		return
	}
	if w.some {
		w.text("\n ")
	}
	w.text("]")
	w.list = ""
}

func (w *Writer) element(list string, of any) error {
	if w.list != list {
		w.open(list)
	}
	if w.some {
		w.text(",")
	}
	w.some = true
	w.text("\n  ")
	w.value(of, "  ")
	return w.err
}
