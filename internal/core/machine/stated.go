package machine

// StatedGrade is how good the evidence is that a part which somebody fitted is what a kit, a listing or a catalogue
// states of it: whoever fits it reads its name, and that there is none they see for themselves; of everything else
// nobody has looked.
func StatedGrade(trait, value string) Grade {
	switch {
	case trait != ModelTrait:
		return Claimed
	case value == None:
		return Observed
	}
	return Marked
}
