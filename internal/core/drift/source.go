package drift

import (
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/settings"
)

// Source is a place of a machine in which settings live, as its files were read: one file, or the
// several of one configuration.
type Source struct {
	Where  Where
	Files  []SourceFile // in the order in which they are numbered in what is stated
	Stated *settings.Stated
}

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
// it calls.
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
		for _, root := range dialect.Roots(form, texts) {
			read(dialect.ReadFrom(form, texts, root))
		}
	}
	return sources, faults
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
