package drift

import (
	"slices"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/settings"
)

// Source is a place of a machine in which settings live, as its files were read: one file, or the
// several of one configuration.
type Source struct {
	Where  Where
	Files  []SourceFile // in the order in which they are numbered in what is stated
	Stated *settings.Stated
	// Called says that it is a script which runs when something calls it: what it sets is no setting of the machine.
	Called bool
}

// The scripted family's settings: the script that runs at start, and the one that the machine writes itself and
// runs after it. Source: from memory.
const (
	startScript = "config.g"
	savedScript = "config-override.g"
)

// SourceFile is a settings file on record.
type SourceFile struct {
	ID   int64
	Name string
	At   time.Time
	By   string
}

// KeptFile is a settings file with its text.
type KeptFile struct {
	SourceFile
	Text string
}

// ReadFault is why files could not be read.
type ReadFault struct {
	Files []SourceFile
	Err   error
}

// Read reads the files of one place of a machine, a card or a build. Headers, and sections of keys,
// are one configuration; of G-code each script that no other calls is read by itself, with those that
// it calls. Where the script that the scripted family runs at start is among them, the others are called.
func Read(w *settings.Words, family string, where Where, files []KeptFile) (sources []Source, faults []ReadFault) {
	var forms []dialect.Form
	of := map[dialect.Form][]KeptFile{}
	for _, f := range files {
		form := settings.FormFor(family, f.Text)
		if of[form] == nil {
			forms = append(forms, form)
		}
		of[form] = append(of[form], f)
	}
	for _, form := range forms {
		src := Source{Where: where}
		var texts []dialect.File
		for _, f := range of[form] {
			src.Files = append(src.Files, f.SourceFile)
			texts = append(texts, dialect.File{Name: f.Name, Text: f.Text})
		}
		read := func(d *dialect.Document, err error) {
			if err == nil {
				src.Stated, err = w.State(family, d)
			}
			if err != nil {
				faults = append(faults, ReadFault{src.Files, err})
				return
			}
			sources = append(sources, src)
		}
		if form != dialect.GCode {
			read(dialect.ReadAll(form, texts))
			continue
		}
		roots := dialect.Roots(form, texts)
		if start := atStart(family, texts, roots); len(start) > 0 {
			read(dialect.ReadFrom(form, texts, start...))
			roots = slices.DeleteFunc(roots, func(i int) bool { return slices.Contains(start, i) })
			src.Called = true
		}
		for _, root := range roots {
			read(dialect.ReadFrom(form, texts, root))
		}
	}
	return sources, faults
}

// atStart are those of the scripts that run when a machine of the scripted family starts, in their order; none
// where the first of them is not on record.
func atStart(family string, files []dialect.File, roots []int) []int {
	named := func(name string) int {
		return slices.IndexFunc(roots, func(i int) bool { return settings.ScriptName(files[i].Name) == name })
	}
	start, saved := named(startScript), named(savedScript)
	switch {
	case family != parts.Scripted || start < 0:
		return nil
	case saved < 0:
		return []int{roots[start]}
	}
	return []int{roots[start], roots[saved]}
}

// statement is what a line of a place says.
func (src *Source) statement(file, line int, word, value string) calibration.Statement {
	of := &src.Files[file]
	return calibration.Statement{
		Where: string(src.Where) + ", " + of.Name,
		Value: value,
		By:    of.By,
		At:    &of.At,
		File:  of.ID,
		Line:  line,
		Word:  word,
		Grade: machine.Claimed,
	}
}
