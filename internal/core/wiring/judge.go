package wiring

// JudgedLoom is the arithmetic of a loom.
type JudgedLoom struct {
	Findings []Finding     `json:"findings"`
	Motors   []JudgedMotor `json:"motorsJudged"`
}

// JudgedMotor is a motor's re-pinning.
type JudgedMotor struct {
	Name   string    `json:"name"`
	Motor  []string  `json:"motor" doc:"Ends on the pins of the motor's connector"`
	Header []string  `json:"header" doc:"Ends on the pins of the board's header"`
	Repin  Repinning `json:"repin"`
	Fault  string    `json:"fault,omitempty" doc:"Why the orders cannot be read"`
}

// Judge checks every wire of a loom and says for every motor which leads to
// swap. A motor whose orders cannot be read is named with the fault; the others
// are judged all the same. The error is Check's.
func Judge(l Loom) (JudgedLoom, error) {
	findings, err := Check(l)
	if err != nil {
		return JudgedLoom{}, err
	}
	out := JudgedLoom{Findings: findings, Motors: []JudgedMotor{}}
	for _, m := range l.Motors {
		out.Motors = append(out.Motors, judgeMotor(m))
	}
	return out, nil
}

func judgeMotor(m Motor) JudgedMotor {
	j := JudgedMotor{Name: m.Name, Motor: []string{}, Header: []string{}, Repin: Repinning{Swaps: []Swap{}}}
	leads, err := ParseOrder(m.Leads)
	if err != nil {
		j.Fault = "motor: " + err.Error()
		return j
	}
	header, err := ParseOrder(m.Header)
	if err != nil {
		j.Fault = "header: " + err.Error()
		return j
	}
	for i := range leads {
		j.Motor, j.Header = append(j.Motor, leads[i].String()), append(j.Header, header[i].String())
	}
	j.Repin = Repin(leads, header, m.Reverse)
	return j
}
