package recordfile

import (
	"cmp"
	"encoding/json"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/wiring"
)

// Format and Version head a record file.
const (
	Format  = "wardifex-record"
	Version = 3
)

// MaxBytes is the size of the largest record file that is read.
const MaxBytes = 256 << 20

// File is the record of machines; its schema is docs/record.schema.json. Parts,
// orders and readings refer to each other by their numbers in the file, which
// begin at 1 and are not those of any database.
type File struct {
	Format    string            `json:"format" enum:"wardifex-record"`
	Version   int               `json:"version" enum:"1,2,3"`
	Catalogue machine.Catalogue `json:"catalogue" doc:"What the record is described in"`
	Kits      []fit.Kit         `json:"kits,omitempty" doc:"Upgrades; of a whole fleet only"`
	Parts     []Part            `json:"parts"`
	// Of a part of the fleet those that run or ran on it.
	Builds    []Build         `json:"builds,omitempty" doc:"Firmware builds"`
	Machines  []Machine       `json:"machines"`
	Questions []SavedQuestion `json:"questions,omitempty" doc:"Saved questions; of a whole fleet only"`
	// Tasks are those of maintenance that the shop keeps as its own.
	Tasks []maintenance.Task `json:"tasks,omitempty" doc:"The shop's own tasks; of a whole fleet only"`
}

// Part is one part with its readings.
type Part struct {
	No          int          `json:"no" minimum:"1"`
	Kind        string       `json:"kind"`
	Tag         string       `json:"tag,omitempty"`
	Serial      string       `json:"serial,omitempty"`
	Supplier    string       `json:"supplier,omitempty"`
	Price       *float64     `json:"price,omitempty"`
	BoughtOn    string       `json:"boughtOn,omitempty"`
	Note        string       `json:"note,omitempty"`
	Shelf       string       `json:"shelf,omitempty"`
	Lot         string       `json:"lot,omitempty"`
	ScrappedAt  *time.Time   `json:"scrappedAt,omitempty"`
	ScrappedWhy string       `json:"scrappedWhy,omitempty"`
	Changed     Changed      `json:"changed"`
	Readings    []Reading    `json:"readings,omitempty"`
	Unreadable  []Unreadable `json:"unreadable,omitempty"`
}

// Changed is who wrote something last, and how often it was written.
type Changed struct {
	Version int       `json:"version"`
	By      string    `json:"by"`
	At      time.Time `json:"at"`
}

// Reading is one reading of a part.
type Reading struct {
	Trait       string        `json:"trait"`
	Value       string        `json:"value"`
	Grade       machine.Grade `json:"grade"`
	At          time.Time     `json:"at"`
	By          string        `json:"by"`
	How         string        `json:"how,omitempty"`
	Note        string        `json:"note,omitempty"`
	SetAsideWhy string        `json:"setAsideWhy,omitempty"`
	SetAsideBy  string        `json:"setAsideBy,omitempty"`
	SetAsideAt  *time.Time    `json:"setAsideAt,omitempty"`
	// It is what the part that was fitted is stated to be.
	AsFitted bool    `json:"asFitted,omitempty" doc:"Nobody looked"`
	Photos   []Photo `json:"photos,omitempty"`
}

// Unreadable is what somebody tried to read and could not.
type Unreadable struct {
	Trait      string    `json:"trait"`
	Inspection string    `json:"inspection"`
	Why        string    `json:"why,omitempty"`
	At         time.Time `json:"at"`
	By         string    `json:"by"`
}

// Photo is a picture, as JPEG.
type Photo struct {
	JPEG []byte    `json:"jpeg"`
	At   time.Time `json:"at"`
	By   string    `json:"by"`
}

// Machine is one machine with its history.
type Machine struct {
	Name       string     `json:"name"`
	Bay        string     `json:"bay,omitempty"`
	Maker      string     `json:"maker,omitempty"`
	Serial     string     `json:"serial,omitempty"`
	Note       string     `json:"note,omitempty"`
	Supplier   string     `json:"supplier,omitempty"`
	BoughtOn   string     `json:"boughtOn,omitempty" format:"date"`
	Price      *float64   `json:"price,omitempty"`
	Since      time.Time  `json:"since"`
	RetiredAt  *time.Time `json:"retiredAt,omitempty"`
	RetiredWhy string     `json:"retiredWhy,omitempty"`
	Changed    Changed    `json:"changed"`
	// Of the first version the usual ones.
	Positions []Listed         `json:"positions,omitempty" doc:"What the machine has and had"`
	Takings   []machine.Taking `json:"takings,omitempty" doc:"What changes without a part took of its capacities for good"`
	Fittings  []Fitting        `json:"fittings,omitempty"`
	// In files of earlier versions they are parts.
	Runs         []Run         `json:"runs,omitempty" doc:"Builds that its boards run or ran"`
	Orders       []Order       `json:"orders,omitempty"`
	Calibrations []Calibration `json:"calibrations,omitempty"`
	Meters       []Meter       `json:"meters,omitempty"`
	Done         []Done        `json:"done,omitempty"`
	Labour       []Labour      `json:"labour,omitempty"`
	Uses         []UseState    `json:"uses,omitempty"`
	Faults       []Fault       `json:"faults,omitempty"`
	WireSheets   []WireSheet   `json:"wireSheets,omitempty"`
}

// Build is a firmware build.
type Build struct {
	firmware.Build
	Changed Changed `json:"changed"`
}

// Run is a build while a board runs it, or ran it.
type Run struct {
	Slot  string `json:"slot"`
	Board string `json:"board,omitempty" doc:"Key of the position of the board"`
	// Empty while nobody has said which it is.
	Build      string                 `json:"build,omitempty" doc:"Name of the build"`
	Configured map[machine.Key]string `json:"configured,omitempty" doc:"What it was configured for"`
	From       time.Time              `json:"from"`
	To         *time.Time             `json:"to,omitempty"`
	Order      int                    `json:"order,omitempty" doc:"Number in this machine's orders, from 1"`
	Why        string                 `json:"why,omitempty"`
	By         string                 `json:"by,omitempty"`
	Takes      []machine.Taking       `json:"takes,omitempty"`
	Readings   []Reading              `json:"readings,omitempty"`
	Unreadable []Unreadable           `json:"unreadable,omitempty"`
}

// Fitting is a part while it is, or was, in a slot.
type Fitting struct {
	Slot  string           `json:"slot"`
	Part  int              `json:"part"`
	From  time.Time        `json:"from"`
	To    *time.Time       `json:"to,omitempty"`
	Order int              `json:"order,omitempty" doc:"Number in this machine's orders, from 1"`
	Why   string           `json:"why,omitempty"`
	By    string           `json:"by,omitempty"`
	Takes []machine.Taking `json:"takes,omitempty" doc:"What it takes of the machine's capacities"`
}

// Listed is a position over the time that the machine has it.
type Listed struct {
	machine.Position
	From time.Time  `json:"from"`
	To   *time.Time `json:"to,omitempty"`
	By   string     `json:"by,omitempty"`
}

// Order is a work order. Kit, additional changes, verdict and closing are as the
// API of this version writes them.
type Order struct {
	KitKey   string          `json:"kitKey"`
	Kit      json.RawMessage `json:"kit"`
	Further  json.RawMessage `json:"further"`
	Verdict  json.RawMessage `json:"verdict"`
	Reason   string          `json:"reason"`
	State    string          `json:"state" enum:"planned,open,finished,abandoned"`
	OpenedBy string          `json:"openedBy"`
	OpenedAt time.Time       `json:"openedAt"`
	ClosedBy string          `json:"closedBy,omitempty"`
	ClosedAt *time.Time      `json:"closedAt,omitempty"`
	Closing  json.RawMessage `json:"closing,omitempty"`
	Steps    []Step          `json:"steps"`
	Task     string          `json:"task,omitempty" doc:"Key of the maintenance task that it was"`
	Locks    []Lock          `json:"locks,omitempty"`
	Parked   *Parked         `json:"parked,omitempty" doc:"Why it was left, where it is"`
	Back     *RolledBack     `json:"rolledBack,omitempty" doc:"Why it was rolled back, where it was"`
}

// Lock is one that a person had on the machine while they worked.
type Lock struct {
	Name  string     `json:"name"`
	PutOn time.Time  `json:"putOn"`
	Off   *time.Time `json:"off,omitempty"`
	OffBy string     `json:"offBy,omitempty"`
	Why   string     `json:"why,omitempty"`
}

// Parked is work that was left for a while.
type Parked struct {
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Why    string    `json:"why"`
	Loose  string    `json:"loose,omitempty"`
	Screws string    `json:"screws,omitempty"`
	Waits  string    `json:"waits,omitempty"`
}

// RolledBack is work that was rolled back.
type RolledBack struct {
	At  time.Time `json:"at"`
	By  string    `json:"by"`
	Why string    `json:"why"`
}

// Step is a step of a work order.
type Step struct {
	Key        string          `json:"key"`
	Step       json.RawMessage `json:"step"`
	Data       json.RawMessage `json:"data"`
	Note       string          `json:"note,omitempty"`
	DoneBy     string          `json:"doneBy,omitempty"`
	DoneAt     *time.Time      `json:"doneAt,omitempty"`
	SkippedWhy string          `json:"skippedWhy,omitempty"`
	Version    int             `json:"version"`
	Photos     []Photo         `json:"photos,omitempty"`
}

// Calibration is a calibration or proof.
type Calibration struct {
	Kind    string             `json:"kind"`
	Subject string             `json:"subject,omitempty" doc:"head 2, axis x, bed …; empty is the machine as a whole"`
	Value   string             `json:"value,omitempty"`
	Store   string             `json:"store"`
	Method  string             `json:"method,omitempty"`
	Passed  bool               `json:"passed"`
	At      time.Time          `json:"at"`
	By      string             `json:"by"`
	Order   int                `json:"order,omitempty"`
	Proof   *calibration.Proof `json:"proof,omitempty" doc:"What a protection test showed"`
	Invalid []Invalid          `json:"invalid,omitempty"`
	// In files of earlier versions: why the whole record was no longer valid.
	VoidReason string     `json:"voidReason,omitempty"`
	VoidRemedy string     `json:"voidRemedy,omitempty"`
	VoidAt     *time.Time `json:"voidAt,omitempty"`
	VoidOrder  int        `json:"voidOrder,omitempty"`
}

// Invalid is since when a calibration is no longer valid, of which of its subjects.
type Invalid struct {
	Subject string    `json:"subject,omitempty" doc:"Empty: of every one"`
	Reason  string    `json:"reason"`
	Remedy  string    `json:"remedy"`
	Causes  []string  `json:"causes,omitempty" doc:"Keys of the positions that were changed"`
	At      time.Time `json:"at"`
	Order   int       `json:"order,omitempty"`
}

// Gone is since when the calibration is not valid, as files of this and of earlier
// versions say it.
func (c Calibration) Gone() []Invalid {
	if c.VoidAt == nil {
		return c.Invalid
	}
	return append([]Invalid{{Reason: c.VoidReason, Remedy: c.VoidRemedy, At: *c.VoidAt, Order: c.VoidOrder}}, c.Invalid...)
}

// Meter is a reading of a meter.
type Meter struct {
	Counter maintenance.Counter `json:"counter,omitempty" enum:"hours,filament,prints" doc:"Empty: print hours"`
	At      time.Time           `json:"at"`
	Hours   float64             `json:"hours" doc:"What it shows, in the counter's unit: h, m or prints"`
	Reset   bool                `json:"reset,omitempty"`
	By      string              `json:"by"`
}

// Counts is what the meter counts.
func (m Meter) Counts() maintenance.Counter { return cmp.Or(m.Counter, maintenance.Hours) }

// Done is a maintenance task that was done.
type Done struct {
	Task string    `json:"task"`
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	Note string    `json:"note,omitempty"`
	// NewParts are the positions at which other parts went in.
	NewParts []string `json:"newParts,omitempty"`
}

// Labour is time spent on a machine.
type Labour struct {
	At      time.Time `json:"at"`
	By      string    `json:"by"`
	Minutes int       `json:"minutes"`
	What    string    `json:"what"`
	Order   int       `json:"order,omitempty"`
}

// UseState is what a machine may be used for since a moment.
type UseState struct {
	Use maintenance.Use `json:"use" enum:"in use,attended only,out of use"`
	Why string          `json:"why"`
	At  time.Time       `json:"at"`
	By  string          `json:"by"`
}

// Fault is a fault as it was reported.
type Fault struct {
	Symptom  string     `json:"symptom,omitempty"`
	Words    string     `json:"words"`
	By       string     `json:"by"`
	At       time.Time  `json:"at"`
	ClosedAt *time.Time `json:"closedAt,omitempty"`
	ClosedBy string     `json:"closedBy,omitempty"`
	Answer   string     `json:"answer,omitempty"`
	Version  int        `json:"version"`
	Photos   []Photo    `json:"photos,omitempty"`
}

// WireSheet is the wiring of a machine or one of its heads.
type WireSheet struct {
	Head    string      `json:"head,omitempty"`
	Sheet   wiring.Loom `json:"sheet"`
	Changed Changed     `json:"changed"`
}

// SavedQuestion is a saved question.
type SavedQuestion struct {
	Name     string              `json:"name"`
	Question fleetquery.Question `json:"question"`
	Changed  Changed             `json:"changed"`
}

// Read reads a record file. The error says what is wrong and where.
func Read(text []byte) (File, error) {
	var f File
	err := catalogue.ReadJSON(text, MaxBytes, Format, Version, &f)
	if f.Version < Version {
		f.Catalogue = catalogue.Older(f.Catalogue)
	}
	return f, err
}
