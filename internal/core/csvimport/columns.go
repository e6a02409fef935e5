package csvimport

import (
	"errors"
	"fmt"
	"strconv"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// Decisions are what a person said of a file.
type Decisions struct {
	Mapping     []string     `json:"mapping,omitempty" doc:"Target of each column; empty to leave it out"`
	Corrections []Correction `json:"corrections,omitempty"`
	LeaveOut    []int        `json:"leaveOut,omitempty" doc:"Lines not to be imported"`
	Accepted    []int        `json:"accepted,omitempty" doc:"Lines of which what was asked is right"`
	// Empty where its cells say it.
	Decimals  []string    `json:"decimals,omitempty" doc:"Of each column the mark before decimals, . or ,"`
	DateOrder civil.Order `json:"dateOrder,omitempty" enum:"day first,month first," doc:"Of dates such as 3/4/2026"`
}

// FileQuestion is something about a file that only a person can say. It is asked once.
type FileQuestion struct {
	About   string       `json:"about" enum:"decimals,dates"`
	Column  int          `json:"column" doc:"From 0; of decimals"`
	Text    string       `json:"text"`
	Answers []FileAnswer `json:"answers"`
}

// FileAnswer is one that a question can have: what is sent, and what it means.
type FileAnswer struct {
	Value string `json:"value"`
	Means string `json:"means"`
}

// column is a column that goes somewhere, as its cells are to be read.
type column struct {
	target  string
	label   string
	trait   *machine.Trait
	index   int
	heading string
	unit    string // of the heading
	decimal quantity.Mark
	order   civil.Order
}

// understand works out how the cells of each matched column are to be read, and what has
// to be asked.
func understand(t Table, d Decisions, voc *machine.Vocabulary) ([]column, []FileQuestion, error) {
	columns, err := checkMapping(t, d.Mapping, voc)
	if err != nil {
		return nil, nil, err
	}
	var asks []FileQuestion
	order := d.DateOrder
	if order == civil.Unsaid {
		var ask *FileQuestion
		if order, ask = orderOf(t, columns); ask != nil {
			asks = append(asks, *ask)
		}
	}
	for i := range columns {
		c := &columns[i]
		c.unit, c.order = readHeading(c.heading).unit, order
		if c.index < len(d.Decimals) && d.Decimals[c.index] != "" {
			said := d.Decimals[c.index]
			if said != string(quantity.Point) && said != string(quantity.Comma) {
				return nil, nil, fmt.Errorf("%q is no mark before decimals; it is a point or a comma", said)
			}
			c.decimal = quantity.Mark(said[0])
			continue
		}
		var ask *FileQuestion
		if c.decimal, ask = decimalOf(t, *c); ask != nil {
			asks = append(asks, *ask)
		}
	}
	return columns, asks, nil
}

// decimalOf is the mark that stands before decimals in a column: what its cells say, or a
// question where one of them has two meanings and none tells.
func decimalOf(t Table, c column) (quantity.Mark, *FileQuestion) {
	if !c.takesNumber() {
		return quantity.Unsaid, nil
	}
	var ambiguous *quantity.TwoMeanings
	counts := map[quantity.Mark]int{}
	for _, r := range t.Rows {
		text := cell(r, c.index)
		if c.target == Price {
			text = money.Replace(text)
		}
		counts[quantity.MarkOf(text)]++
		var two *quantity.TwoMeanings
		if ambiguous == nil && errors.As(c.number(text), &two) {
			ambiguous = two
		}
	}
	switch comma, point := counts[quantity.Comma], counts[quantity.Point]; {
	case comma > 0 && point == 0:
		return quantity.Comma, nil
	case point > 0 && comma == 0:
		return quantity.Point, nil
	case ambiguous == nil:
		return quantity.Unsaid, nil
	}
	point, comma := ambiguous.Decimal, ambiguous.Thousands
	if mark := ambiguous.Written; !hasPoint(mark) {
		point, comma = comma, point
	}
	return quantity.Unsaid, &FileQuestion{About: "decimals", Column: c.index,
		Text: fmt.Sprintf("%s: what is %q? No other cell of the column tells.", c.heading, ambiguous.Written),
		Answers: []FileAnswer{
			{".", fmt.Sprintf("%s: the point stands before decimals", withUnitOf(point, c))},
			{",", fmt.Sprintf("%s: the comma stands before decimals", withUnitOf(comma, c))},
		}}
}

func hasPoint(text string) bool {
	for _, r := range text {
		if r == '.' {
			return true
		}
	}
	return false
}

func withUnitOf(n float64, c column) string {
	if c.trait != nil && c.trait.Unit != "" {
		return quantity.Format(n) + " " + c.trait.Unit
	}
	return quantity.Format(n)
}

func (c column) takesNumber() bool {
	return isMeter(c.target) || c.target == Price || c.trait != nil && c.trait.Kind == machine.Number
}

// number is what is wrong with a cell as a number of the column.
func (c column) number(text string) (err error) {
	switch {
	case blank[fold(text)]:
	case isMeter(c.target):
		_, err = readMeter(c.target, text, c.decimal)
	case c.target == Price:
		_, err = readPrice(text, c.decimal)
	case c.trait != nil:
		_, err = readTrait(c.trait, text, c.unit, c.decimal)
	}
	return err
}

// orderOf is which number stands first in the dates of a file, or a question where one of
// them has two meanings and none tells.
func orderOf(t Table, columns []column) (civil.Order, *FileQuestion) {
	var ambiguous *civil.TwoDays
	counts := map[civil.Order]int{}
	for _, c := range columns {
		if c.target != Bought && c.target != HoursOn {
			continue
		}
		for _, r := range t.Rows {
			text := cell(r, c.index)
			counts[civil.OrderOf(text)]++
			var two *civil.TwoDays
			if _, err := readDay(text, civil.Unsaid); ambiguous == nil && errors.As(err, &two) {
				ambiguous = two
			}
		}
	}
	switch day, month := counts[civil.DayFirst], counts[civil.MonthFirst]; {
	case day > 0 && month == 0:
		return civil.DayFirst, nil
	case month > 0 && day == 0:
		return civil.MonthFirst, nil
	case ambiguous == nil:
		return civil.Unsaid, nil
	}
	return civil.Unsaid, &FileQuestion{About: "dates",
		Text: fmt.Sprintf("Which day is %q? No other date of the file tells.", ambiguous.Written),
		Answers: []FileAnswer{
			{string(civil.DayFirst), ambiguous.DayFirst.Show()},
			{string(civil.MonthFirst), ambiguous.MonthFirst.Show()},
		}}
}

func checkMapping(t Table, mapping []string, voc *machine.Vocabulary) ([]column, error) {
	if len(mapping) != len(t.Headings) {
		return nil, fmt.Errorf(
			"the file has %d columns, but %d were matched; match each column or leave it out",
			len(t.Headings),
			len(mapping),
		)
	}
	labels := map[string]string{}
	for _, target := range Targets(voc) {
		labels[target.Key] = target.Label
	}
	for _, f := range words.Fields {
		labels[f.Target] = f.Label
	}
	var out []column
	used := map[string]string{}
	for i, target := range mapping {
		if target == "" {
			continue
		}
		heading := t.Headings[i]
		if heading == "" {
			heading = "column " + strconv.Itoa(i+1)
		}
		label, ok := labels[target]
		if !ok {
			return nil, fmt.Errorf("column %q: there is nothing called %q to bring it into", heading, target)
		}
		if other, twice := used[target]; twice {
			return nil, fmt.Errorf("the columns %q and %q are both matched to %s; leave one out", other, heading, label)
		}
		used[target] = heading
		c := column{target: target, label: label, index: i, heading: heading}
		c.trait, _ = voc.Trait(machine.Key(target))
		out = append(out, c)
	}
	if _, ok := used[Name]; !ok {
		return nil, fmt.Errorf("no column is matched to the machine's name; choose the one that tells the machines apart")
	}
	return out, nil
}

// Sample is a cell, and how it will be recorded.
type Sample struct {
	Written  string `json:"written"`
	Recorded string `json:"recorded"`
	Fault    bool   `json:"fault,omitempty" doc:"It cannot be read; recorded says why"`
}

// Understood is a column as its cells are read.
type Understood struct {
	Column  int      `json:"column" doc:"From 0"`
	Decimal string   `json:"decimal,omitempty" doc:"Mark before decimals, where the cells tell it"`
	Samples []Sample `json:"samples"`
}

// asked reports whether a cell cannot be read because it has two meanings.
func asked(err error) bool {
	var day *civil.TwoDays
	return two(err) || errors.As(err, &day)
}

// samplesShown is how many cells of a column are shown.
const samplesShown = 3

// Samples shows of each column the first cells, as they will be recorded.
func Samples(t Table, d Decisions, voc *machine.Vocabulary) ([]Understood, []FileQuestion, error) {
	columns, asks, err := understand(t, d, voc)
	if err != nil {
		return nil, nil, err
	}
	out := []Understood{}
	for _, c := range columns {
		u := Understood{Column: c.index, Samples: []Sample{}}
		if c.decimal != quantity.Unsaid {
			u.Decimal = string(rune(c.decimal))
		}
		for _, r := range t.Rows {
			text := cell(r, c.index)
			if blank[fold(text)] {
				continue
			}
			s := Sample{Written: text}
			changes, err := c.read(text, voc)
			switch {
			case err != nil && asked(err):
				s.Recorded, changes = "to be answered", nil
			case err != nil:
				s.Recorded, s.Fault, changes = err.Error(), true, nil
			}
			for i, w := range changes {
				if i > 0 {
					s.Recorded += "; " + w.Label + " "
				}
				s.Recorded += w.After
			}
			if u.Samples = append(u.Samples, s); len(u.Samples) == samplesShown {
				break
			}
		}
		out = append(out, u)
	}
	return out, asks, nil
}
