package wiring

import (
	"fmt"
	"strings"
)

// Port is a connector of the board that comes in: its pins in order, as far as they are known.
type Port struct {
	Name string
	Ways int
	Pins []string
}

// Transfer is where each wire of an old board goes on a new one.
type Transfer struct {
	Wires  []MovedWire   `json:"wires" doc:"In the order of the sheet"`
	Motors []JudgedMotor `json:"motors" doc:"Each motor's plug against the header of the new board"`
}

// MovedWire is one wire on its way from the old board to the new one.
type MovedWire struct {
	Key       string `json:"key" doc:"Tells it from the others of the sheet"`
	Connector string `json:"connector"`
	Pin       int    `json:"pin"`
	Carries   string `json:"carries,omitempty"`
	Label     string `json:"label,omitempty"`
	To        string `json:"to,omitempty" doc:"Connector of the new board; empty where it cannot be told"`
	ToPin     int    `json:"toPin,omitempty" doc:"0 where it cannot be told"`
	Note      string `json:"note,omitempty" doc:"What is to be seen to, or why it cannot be told"`
}

// Move finds for each wire of a sheet its place on a board with these ports: on the port of
// the same name, at the pin that is said to carry the same, else at the pin of the same number
// where both have as many. What cannot be told is said, and never guessed. Motors are judged
// against the four-pin port of the new board that has their name, or is the only kind there.
func Move(l Loom, ports []Port) Transfer {
	out := Transfer{Wires: []MovedWire{}, Motors: []JudgedMotor{}}
	ways := map[string]int{} // of the old connectors
	for _, w := range l.Wires {
		name := strings.ToLower(w.Connector)
		ways[name] = max(ways[name], w.Way)
	}
	for i, w := range l.Wires {
		m := MovedWire{Key: fmt.Sprintf("%d %s %d", i+1, w.Connector, w.Way), Connector: w.Connector, Pin: w.Way,
			Carries: w.Carries, Label: w.Label}
		m.place(w, ways[strings.ToLower(w.Connector)], ports)
		out.Wires = append(out.Wires, m)
	}
	for _, m := range l.Motors {
		if header := headerFor(m.Name, ports); header != "" {
			out.Motors = append(out.Motors, judgeMotor(Motor{Name: m.Name, Leads: m.Leads, Header: header, Reverse: m.Reverse}))
		}
	}
	return out
}

func (m *MovedWire) place(w Wire, ways int, ports []Port) {
	port := portOf(w.Connector, ports)
	if port == nil {
		m.Note = "the new board has no connector of this name on record: go by both pin lists"
		return
	}
	m.To = port.Name
	carried := 0
	for i, pin := range port.Pins {
		if w.Carries != "" && strings.EqualFold(pin, w.Carries) {
			carried = i + 1
		}
	}
	switch {
	case carried > 0:
		m.ToPin = carried
		if carried != w.Way {
			m.Note = "another pin than before"
		}
	case len(port.Pins) > 0 && w.Carries != "":
		m.Note = fmt.Sprintf("its pins are %s: find %s by both pin lists", strings.Join(port.Pins, " "), w.Carries)
	case ways > port.Ways:
		m.Note = fmt.Sprintf("it has %d pins and the old one at least %d: go by both pin lists", port.Ways, ways)
	default:
		m.ToPin = w.Way
		if w.Polarity == "" && polar(w.Carries) {
			m.Note = "polarity matters: see which pin is + on both boards"
		}
	}
}

// portOf is the port of a name: "heater" is that of "Heater 1", too.
func portOf(connector string, ports []Port) *Port {
	name := strings.ToLower(strings.TrimSpace(connector))
	var close *Port
	for i := range ports {
		port := strings.ToLower(ports[i].Name)
		if port == name {
			return &ports[i]
		}
		if rest, ok := strings.CutPrefix(name, port); ok && strings.TrimLeft(rest, " 0123456789xyze") == "" {
			close = &ports[i]
		}
	}
	return close
}

// headerFor is the order of the header on which a motor goes; empty where it is not on record.
func headerFor(motor string, ports []Port) string {
	if p := portOf(motor, ports); p != nil && len(p.Pins) == 4 {
		return strings.Join(p.Pins, " ")
	}
	found := ""
	for _, p := range ports {
		if len(p.Pins) != 4 {
			continue
		}
		order := strings.Join(p.Pins, " ")
		if _, err := ParseOrder(order); err != nil {
			continue
		}
		if found != "" && found != order {
			return ""
		}
		found = order
	}
	return found
}
