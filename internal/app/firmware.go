package app

import (
	"context"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"wardifex/internal/core/carryover"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/drift"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/settings"
	"wardifex/internal/store"
)

// FirmwareOf is the firmware of one machine: what runs, how it uses the flash, whether it is to be
// touched, and the ways back.
type FirmwareOf struct {
	Machine  string               `json:"machine"`
	Family   string               `json:"family"`
	Way      string               `json:"way"      doc:"How its board takes a build; empty where that is unknown"`
	Last     string               `json:"lastFile" doc:"Name of the file flashed last"`
	Propose  string               `json:"propose"  doc:"A file name that its board has not seen"`
	Build    *store.BuildOnRecord `json:"build,omitempty" doc:"What runs, where somebody said which it is"`
	Remarks  []string             `json:"remarks"  doc:"What of it does not go together"`
	Cautions []settings.Caution   `json:"cautions" doc:"What its configuration takes away of protection"`
	Differs  []string             `json:"differs"  doc:"What was found otherwise than advertised"`
	Memory   *firmware.FlashUse   `json:"memory,omitempty"`
	Features []machine.Feature    `json:"features" doc:"That the catalogue knows"`
	Decision *store.FlashDecision `json:"decision,omitempty"`
	Unlocks  []BuildUnlocks       `json:"unlocks"  doc:"What a new build would make possible"`
	WaysBack []store.WayBack      `json:"waysBack"`
	Families []string             `json:"families" doc:"Those that it could be changed to"`
}

// BuildUnlocks is a kit that needs another build and would fit.
type BuildUnlocks struct {
	Kit    string     `json:"kit" doc:"Key"`
	Name   string     `json:"name"`
	Needs  string     `json:"needs" doc:"What the build must have"`
	Answer fit.Answer `json:"answer"`
}

// buildOn is the build that the mainboard of a machine runs; nil where nobody has said which it is.
func (a *App) buildOn(ctx context.Context, machineID int64) (*store.BuildOnRecord, error) {
	runs, err := a.store.Runs(ctx, machineID, 0)
	if err != nil {
		return nil, err
	}
	for _, r := range runs {
		if r.To == nil && r.BuildID != 0 {
			b, err := a.store.Build(ctx, r.BuildID)
			return &b, err
		}
	}
	return nil, nil
}

// FirmwareOf gives the firmware of a machine.
func (a *App) FirmwareOf(ctx context.Context, machineID int64, now time.Time) (FirmwareOf, error) {
	m, err := a.store.Machine(ctx, machineID)
	if err != nil {
		return FirmwareOf{}, err
	}
	out := FirmwareOf{Machine: m.Name, Family: m.Family(), Last: m.LastFile(), Remarks: []string{}, Differs: []string{},
		Cautions: []settings.Caution{},
		Features: []machine.Feature{}, Unlocks: []BuildUnlocks{}, Families: []string{}}
	out.Way = m.Facts.Of(m.Facts.First(parts.Mainboard), parts.MainboardUpload).Value.Text
	out.Propose = firmware.UniqueName(m.Name, civil.Of(now).String(), out.Last)
	for _, family := range []string{parts.Compiled, parts.Hosted, parts.Scripted} {
		if family != out.Family {
			out.Families = append(out.Families, family)
		}
	}
	out.Features = append(out.Features, a.store.Vocabulary(ctx).Features(parts.Firmware)...)
	if out.Build, err = a.buildOn(ctx, machineID); err != nil {
		return out, err
	}
	if b := out.Build; b != nil {
		remarks, err := a.BuildRemarks(ctx, *b)
		if err != nil {
			return out, err
		}
		out.Remarks, out.Cautions = append(remarks.Pairs, remarks.Behind...), remarks.Cautions
		columns, _ := m.Facts.Number(m.Facts.First(parts.Display), parts.DisplayColumns)
		if says := b.CheckLabel(m.Name, columns); says != "" {
			out.Remarks = append(out.Remarks, says)
		}
		out.Differs = append(out.Differs, b.Differs()...)
	}
	if out.Family != parts.Hosted {
		memory := firmware.FlashUseOf(m.Facts, running(&m, out.Build))
		out.Memory = &memory
	}
	if out.Decision, err = a.store.FlashDecision(ctx, machineID); err != nil {
		return out, err
	}
	if out.WaysBack, err = a.store.WaysBack(ctx, machineID); err != nil {
		return out, err
	}
	judges, _, err := a.Judges(ctx)
	if err != nil {
		return out, err
	}
	for _, j := range judges {
		if j.Kit.NewBuild == "" {
			continue
		}
		if v := j.On(m.Facts).Verdict(m.Facts); v.Answer == fit.Fits || v.Answer == fit.FitsIf {
			out.Unlocks = append(out.Unlocks, BuildUnlocks{j.Kit.Key, j.Kit.Name, j.Kit.NewBuild, v.Answer})
		}
	}
	return out, nil
}

// WantFeatures says what features would leave of the flash of a machine, and what to drop for them.
func (a *App) WantFeatures(ctx context.Context, machineID int64, features []string) (firmware.Wanted, error) {
	m, err := a.store.Machine(ctx, machineID)
	if err != nil {
		return firmware.Wanted{}, err
	}
	b, err := a.buildOn(ctx, machineID)
	if err != nil {
		return firmware.Wanted{}, err
	}
	is := running(&m, b)
	return firmware.FlashUseOf(m.Facts, is).Want(m.Facts, is, features), nil
}

// running is the build that a machine runs: the one on record, else as far as the machine's sheet says.
func running(m *store.Machine, b *store.BuildOnRecord) firmware.Build {
	if b != nil {
		return b.Build
	}
	run := m.Facts.First(parts.Firmware)
	out := firmware.Build{Family: m.Family(), Features: map[string]string{}}
	out.KiB, _ = m.Facts.Number(run, parts.FirmwareSize)
	for _, name := range fit.FeaturesIn(m.Facts.Of(run, parts.FirmwareFeatures).Value.Text) {
		out.Features[name] = "yes"
	}
	return out
}

// FlashChecks are the checks of a build before it is flashed on a machine.
type FlashChecks struct {
	Build   string           `json:"build"`
	Checks  []firmware.Guard `json:"checks" doc:"What stops first"`
	Propose string           `json:"propose" doc:"A file name that the board has not seen"`
}

// FlashChecks checks a build against a machine.
func (a *App) FlashChecks(ctx context.Context, machineID, build int64, now time.Time) (FlashChecks, error) {
	m, err := a.store.Machine(ctx, machineID)
	if err != nil {
		return FlashChecks{}, err
	}
	b, err := a.store.Build(ctx, build)
	if err != nil {
		return FlashChecks{}, err
	}
	out := FlashChecks{Build: b.Name, Checks: firmware.Guards(b.Build, m.Facts, m.Name, m.LastFile()),
		Propose: firmware.UniqueName(m.Name, civil.Of(now).String(), m.LastFile())}
	more, err := a.configurationChecks(ctx, &m, b)
	out.Checks = append(out.Checks, more...)
	firmware.SortGuards(out.Checks)
	return out, err
}

// configurationChecks are those of the files by which a build was configured.
func (a *App) configurationChecks(ctx context.Context, m *store.Machine, b store.BuildOnRecord) ([]firmware.Guard,
	error) {
	since, err := a.store.SinceOf(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	read, err := a.configurationOf(ctx, b.ID)
	if err != nil {
		return nil, err
	}
	var out []firmware.Guard
	for _, src := range read.sources {
		out = append(out, drift.Guards(b.Build, m.Facts, m.Records, since, src)...)
	}
	return out, nil
}

// configurationOf are the files by which a build was configured, as they are read.
func (a *App) configurationOf(ctx context.Context, build int64) (settingsRead, error) {
	files, err := a.store.SettingsOfBuild(ctx, build)
	if err != nil || len(files) == 0 {
		return settingsRead{}, err
	}
	words, err := a.words(ctx)
	if err != nil {
		return settingsRead{}, err
	}
	of := make([]store.SettingsFor, len(files))
	for i, f := range files {
		of[i].SettingsFile = f
	}
	return a.readFiles(ctx, words, of)
}

// BuildRemarks are what is to be said of a build.
type BuildRemarks struct {
	Pairs    []string           // versions that do not go together
	Behind   []string           // parts of its host that may have been left out of an update
	Cautions []settings.Caution // what its configuration takes away of protection
}

// BuildRemarks gives what is to be said of a build.
func (a *App) BuildRemarks(ctx context.Context, b store.BuildOnRecord) (BuildRemarks, error) {
	out := BuildRemarks{Pairs: b.Pairs()}
	read, err := a.configurationOf(ctx, b.ID)
	if err != nil {
		return out, err
	}
	for _, src := range read.sources {
		out.Pairs = append(out.Pairs, b.PairsWith(src.Stated.Document)...)
	}
	out.Cautions = read.cautions()
	others, err := a.store.Builds(ctx)
	out.Behind = append([]string{}, b.Behind(store.PlainBuilds(others))...)
	return out, err
}

// FitsMachine is whether a build may run on a machine: where what it was configured for agrees.
type FitsMachine struct {
	MachineID int64               `json:"machineId"`
	Machine   string              `json:"machine"`
	Runs      bool                `json:"runs" doc:"It runs there now"`
	Fits      bool                `json:"fits" doc:"All that it was configured for agrees, as far as is on record"`
	Apart     []firmware.Mismatch `json:"apart" doc:"What tells the machine apart"`
	Unknown   []string            `json:"unknown" doc:"What it was configured for and is not on record of the machine"`
}

// BuildForMachines says for which machines a build is, and which fact tells the others apart.
func (a *App) BuildForMachines(ctx context.Context, build int64) ([]FitsMachine, error) {
	b, err := a.store.Build(ctx, build)
	if err != nil {
		return nil, err
	}
	runs, err := a.store.Runs(ctx, 0, build)
	if err != nil {
		return nil, err
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	out := []FitsMachine{}
	for i := range fleet {
		m := &fleet[i]
		f := FitsMachine{MachineID: m.ID, Machine: m.Name, Apart: []firmware.Mismatch{}, Unknown: []string{}}
		f.Runs = slices.ContainsFunc(runs, func(r store.RunOnRecord) bool { return r.To == nil && r.MachineID == m.ID })
		f.Apart, f.Unknown = b.Apart(m.Facts)
		f.Fits = len(f.Apart) == 0 && len(f.Unknown) == 0 && len(b.ConfiguredFor) > 0
		out = append(out, f)
	}
	slices.SortStableFunc(out, func(x, y FitsMachine) int {
		return len(x.Apart)*100 + len(x.Unknown) - len(y.Apart)*100 - len(y.Unknown)
	})
	return out, nil
}

// MessageMeaning is what a message of a host means on a machine, with the change of its configuration
// that answers it, where one does.
type MessageMeaning struct {
	firmware.Meaning
	File string `json:"file,omitempty" doc:"The settings file that holds the key"`
	Line int    `json:"line,omitempty"`
	Diff string `json:"diff,omitempty" doc:"What comments it out, unified"`
}

// HostMessage says what a message of a host means.
func (a *App) HostMessage(ctx context.Context, machineID int64, text string) ([]MessageMeaning, error) {
	out := []MessageMeaning{}
	files, err := a.store.SettingsFiles(ctx, machineID)
	if err != nil {
		return out, err
	}
	for _, is := range firmware.MeaningsOf(text) {
		x := MessageMeaning{Meaning: is}
		for _, f := range files {
			if is.Key == "" || f.Family != parts.Hosted {
				continue
			}
			text, err := a.store.SettingsText(ctx, f.SettingsFile)
			if err != nil {
				return out, err
			}
			if doc, err := dialect.Read(dialect.Sections, text); err == nil {
				x.comment(doc, f.Name)
			}
		}
		out = append(out, x)
	}
	return out, nil
}

// comment finds the key in a file, and comments it out.
func (x *MessageMeaning) comment(doc *dialect.Document, name string) {
	for i := range doc.Entries {
		e := &doc.Entries[i]
		if !strings.EqualFold(doc.Word(e), x.Key) || x.Section != "" && doc.Section(e) != strings.ToLower(x.Section) {
			continue
		}
		x.File, x.Line = name, e.Line
		x.Diff, _ = dialect.Diff(name, doc.Text, []dialect.Edit{doc.Disable(e)})
		return
	}
}

// DecideFlash writes down whether the firmware of a machine is left alone, or what it waits for.
func (a *App) DecideFlash(ctx context.Context, machineID int64, d store.FlashDecision, by string, now time.Time) error {
	if err := checkTexts([]named{{"reason", d.Reason}}); err != nil {
		return err
	}
	d.DecidedBy, d.DecidedAt = by, now
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, machineID); err != nil {
			return err
		}
		return a.store.DecideFlash(ctx, machineID, d)
	})
}

// AddWayBack writes down a card, a backup or a file by which there is a way back.
func (a *App) AddWayBack(ctx context.Context, w store.WayBack, by string, now time.Time) (id int64, err error) {
	if err := checkTexts([]named{{"name", w.Name}, {"place", w.Place}}); err != nil {
		return 0, err
	}
	if w.MadeOn > civil.Of(now) {
		return 0, refuse("it was made on %s, which has not come yet", w.MadeOn.Show())
	}
	w.AddedBy, w.AddedAt = by, now
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, w.MachineID); err != nil {
			return err
		}
		id, err = a.store.AddWayBack(ctx, w)
		return err
	})
	return id, err
}

// KeepWayBack undoes EndWayBack.
func (a *App) KeepWayBack(ctx context.Context, machineID, id int64) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.KeepWayBack(ctx, machineID, id) })
}

// EndWayBack says that a way back is there no more.
func (a *App) EndWayBack(ctx context.Context, machineID, id int64, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.EndWayBack(ctx, machineID, id, now) })
}

// ChangeOfFamily says what becomes of a machine's values in another family.
func (a *App) ChangeOfFamily(ctx context.Context, machineID int64, to string) ([]carryover.FamilyItem, error) {
	m, err := a.store.Machine(ctx, machineID)
	if err != nil {
		return nil, err
	}
	list, err := carryover.Family(m.Facts, m.Records, m.Family(), to)
	if err != nil {
		return nil, Refused(err)
	}
	return list, nil
}

// CarryOver is what is carried over, and between which versions.
type CarryOver struct {
	Own      int64 // number of the machine's settings file
	Before   []byte
	Example  []byte
	From, To string // versions
}

// CarryOver carries a machine's own values into the example of a new version; what was decided for
// the fleet before is decided.
func (a *App) CarryOver(ctx context.Context, c CarryOver) (carryover.Carried, error) {
	f, err := a.store.SettingsFile(ctx, c.Own)
	if err != nil {
		return carryover.Carried{}, err
	}
	text, err := a.store.SettingsText(ctx, f)
	if err != nil {
		return carryover.Carried{}, err
	}
	decided, err := a.store.CarryoverDecisions(ctx, store.Versions{Family: f.Family, From: c.From, To: c.To})
	if err != nil {
		return carryover.Carried{}, err
	}
	own, err := readDocument("the file "+f.Name, text, "")
	if err != nil {
		return carryover.Carried{}, err
	}
	example, err := readDocument("the new example", string(c.Example), own.Form)
	if err != nil {
		return carryover.Carried{}, err
	}
	var before *dialect.Document
	if len(c.Before) > 0 {
		if before, err = readDocument("the old example", string(c.Before), own.Form); err != nil {
			return carryover.Carried{}, err
		}
	}
	out, err := carryover.Carry(before, own, example, decided)
	if err != nil {
		return out, Refused(err)
	}
	if f.Secrets > 0 {
		out.Hand = append(out.Hand, plural(f.Secrets,
			"secret")+" masked: enter them from the original, which is kept at: "+f.Original)
	}
	return out, nil
}

// readDocument reads a text of settings; form is the one that it must be of, if any.
func readDocument(name, text string, form dialect.Form) (*dialect.Document, error) {
	masked, _ := settings.Mask(text)
	is := dialect.FormOf(masked)
	switch {
	case is == "":
		return nil, refuse("%s is no file of settings: neither #define lines, nor sections of keys, nor G-code", name)
	case form != "" && is != form:
		return nil, refuse("%s is written as %s, and the machine's configuration as %s: choose one of the same family", name,
			is, form)
	}
	doc, err := dialect.Read(is, masked)
	if err != nil {
		return nil, refuse("%s: %v", name, err)
	}
	return doc, nil
}

// DecideCarryover writes down what becomes of a word, for every machine that goes from one version to
// the other.
func (a *App) DecideCarryover(ctx context.Context, v store.Versions, d carryover.Decision, by string,
	now time.Time) error {
	if d.Action == carryover.TakeName && d.To == "" {
		return refuse("%s: say under which name it goes on", d.Word)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.DecideCarryover(ctx, v, d, by, now) })
}

// AddBuildFile keeps the built file of a build. The error is of one that is another build than is
// recorded, and of a text with secrets.
func (a *App) AddBuildFile(ctx context.Context, build int64, f store.BuildFile, content []byte, by string,
	now time.Time) error {
	if err := checkTexts([]named{{"name of the file", f.Name}}); err != nil {
		return err
	}
	if len(content) == 0 {
		return refuse("the file %s is empty", f.Name)
	}
	if utf8.Valid(content) {
		if _, secrets := settings.Mask(string(content)); secrets > 0 {
			return refuse("the file %s is a text with %s, and no built file: add it as a configuration file, which is masked",
				f.Name, plural(secrets, "secret"))
		}
	}
	f.AddedBy, f.AddedAt = by, now
	return a.store.InTx(ctx, func(ctx context.Context) error {
		b, err := a.store.LockBuild(ctx, build)
		if err != nil {
			return err
		}
		h := store.HashOf(content)
		if b.SHA256 != "" && b.SHA256 != h.String() {
			return refuse("this file has another checksum (%s…) than the build is recorded with (%s…): it is another build",
				h.String()[:12], b.SHA256[:12])
		}
		if err := a.store.SetBuildHash(ctx, build, h.String()); err != nil {
			return err
		}
		return a.store.AddBuildFile(ctx, build, f, content)
	})
}
