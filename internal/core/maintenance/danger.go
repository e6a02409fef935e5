package maintenance

import (
	"slices"
	"strings"
	"unicode"

	"wardifex/internal/core/parts"
)

// dangers are the symptoms that can hurt somebody. Source: common practice.
var dangers = []Symptom{
	{"too-hot", "Smoke or a burning smell", []Cause{
		{
			"The build believes in another sensor",
			"Switch off at the wall. Cold and unplugged, measure the sensor at two temperatures.",
			"Pull the plug if that is safe, and do not leave it. It stays out of use until it is proven again.",
		},
		{
			"A terminal or contact is burnt",
			"Unplugged, look at the bed and supply terminals for brown plastic.",
			"Mains terminals: a licensed electrician, or as local rules require.",
		}},
		true, "smok smoulder smolder burn smell fire hot fume melt scorch singe"},
	{"sparks", "Sparks or flames", []Cause{
		{
			"A loose mains or bed terminal arcs",
			"Unplugged, look at every terminal for brown plastic and loose strands.",
			"Mains terminals: a licensed electrician, or as local rules require.",
		},
		{
			"A lead is chafed through",
			"Unplugged, follow each loom by hand to its far end.",
			"Pull the mains plug first: bed and supply carry mains voltage.",
		}},
		true, "spark flame fire arcing"},
	{"shock", "An electric shock or a tingle", []Cause{
		{
			"The protective earth is broken",
			"Unplugged, measure from the plug's earth contact to frame and bed plate: well under 1 Ω.",
			"Earth and mains wiring: a licensed electrician, or as local rules require.",
		},
		{
			"A mains lead touches the frame",
			"Unplugged, look where the mains leads pass metal.",
			"Do not touch the machine while it is plugged in.",
		}},
		true, "shock tingl zap electrocut jolt"},
	{"heater-stays-on", "A heater does not stop heating", []Cause{
		{
			"The relay or the board's output failed closed",
			"Unplugged and cold, measure across the output: it must be open.",
			"Pull the plug: switching off at the display does not stop it.",
		},
		{
			"The sensor came out of its block, or is another than the build believes",
			"Cold and unplugged, look at the sensor's seat; measure it at two temperatures.",
			"Pull the plug if that is safe: a heater without its sensor heats without end.",
		}},
		true, "overheat runaway glow"},
	{"cracked-lead", "A cracked or chafed lead at a heater", []Cause{
		{
			"The lead is bent at the same place on every move",
			"Unplugged, look for cracked insulation over the last 100 mm; measure while bending it.",
			"Pull the mains plug first. Bed leads may carry mains voltage.",
		}},
		true, "crack fray chafe bare"},
}

// alarming are beginnings of words that nobody writes of a machine that is safe to stay on, whatever else they
// chose.
var alarming = []string{"smok", "smoulder", "smolder", "spark", "fire", "flame", "electrocut", "tingl", "zapp"}

// doubtful are beginnings of words that tell danger where no harmless symptom was chosen: ghosts can be burnt in.
var doubtful = []string{"burn", "scorch", "singe", "overheat", "runaway", "melted", "glow", "charred", "arcing",
	"shock", "fume"}

// alarmingPhrases tell danger by words that are harmless apart. Each is beginnings of words that follow one another,
// with at most gapWords others between.
var alarmingPhrases = [][]string{
	{"electric", "shock"}, {"got", "shock"}, {"gave", "shock"}, {"gets", "shock"}, {"burn", "smell"}, {"smell", "burn"},
	{"smell", "hot"}, {"smell", "plastic"}, {"smell", "electr"}, {"stink", "burn"},
	{"not", "stop", "heat"}, {"t", "stop", "heat"}, {"never", "stop", "heat"}, {"keeps", "heat"}, {"keep", "on", "heat"},
	{"heat", "not", "stop"}, {"heat", "t", "stop"}, {"heat", "keeps"}, {"heat", "on", "its", "own"},
	{"heat", "by", "itself"},
	{"heat", "stays", "on"}, {"heat", "stuck", "on"}, {"heat", "not", "switch", "off"}, {"heat", "t", "switch", "off"},
	{"bed", "not", "switch", "off"}, {"bed", "t", "switch", "off"}, {"heat", "t", "turn", "off"},
	{"bed", "t", "turn", "off"},
}

// damaged and wiring tell danger where one of each stands near the other: a cracked lead, a plug that has melted.
var (
	damaged = []string{"crack", "fray", "chafe", "bare", "exposed", "melt", "scorch", "brown", "broken"}
	wiring  = []string{"wire", "wiring", "cable", "lead", "cord", "insulat", "connector", "plug", "terminal"}
)

// near is how many words apart two words that belong together are at most.
const near = 6

// gapWords is how many other words may stand between two of a phrase.
const gapWords = 2

// IsDanger reports whether a fault can hurt somebody, so that its machine is closed at once: by its symptom or by
// its words. Where a harmless symptom was chosen, only words that are never harmless count. It errs on the safe
// side: "no smoke" is danger too.
func IsDanger(symptom, words string) bool {
	s, chosen := SymptomOf(symptom)
	if s.Danger {
		return true
	}
	said := strings.FieldsFunc(strings.ToLower(words), func(r rune) bool { return !unicode.IsLetter(r) })
	begins := func(with []string) bool {
		return slices.ContainsFunc(said, func(w string) bool {
			return slices.ContainsFunc(with, func(begin string) bool { return strings.HasPrefix(w, begin) })
		})
	}
	return begins(alarming) || !chosen && begins(doubtful) || damagedWiring(said) ||
		slices.ContainsFunc(alarmingPhrases, func(phrase []string) bool { return says(said, phrase) })
}

// damagedWiring reports whether a word of damage stands near one of wiring.
func damagedWiring(said []string) bool {
	beginsWith := func(of []string) func(string) bool {
		return func(w string) bool {
			return slices.ContainsFunc(of, func(begin string) bool { return strings.HasPrefix(w, begin) })
		}
	}
	for i, w := range said {
		if !beginsWith(wiring)(w) {
			continue
		}
		around := said[max(0, i-near):min(len(said), i+near+1)]
		if slices.ContainsFunc(around, beginsWith(damaged)) {
			return true
		}
	}
	return false
}

// says reports whether the words of a phrase follow one another in what was said.
func says(said, phrase []string) bool {
	for i := range said {
		if strings.HasPrefix(said[i], phrase[0]) && goesOn(said[i+1:], phrase[1:]) {
			return true
		}
	}
	return false
}

func goesOn(said, phrase []string) bool {
	if len(phrase) == 0 {
		return true
	}
	for i := 0; i < len(said) && i <= gapWords; i++ {
		if strings.HasPrefix(said[i], phrase[0]) && goesOn(said[i+1:], phrase[1:]) {
			return true
		}
	}
	return false
}

// SisterKinds are the kinds of part whose danger the machines with the same model share. Source: common practice.
func SisterKinds() []string { return []string{parts.Mainboard, parts.Supply, parts.Heater} }
