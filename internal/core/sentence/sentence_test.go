package sentence_test

import (
	"testing"

	"wardifex/internal/core/sentence"
)

func TestTheFirstLetter(t *testing.T) {
	t.Parallel()
	for text, want := range map[string][2]string{
		"":           {"", ""},
		"fan":        {"Fan", "fan"},
		"Übergang":   {"Übergang", "übergang"},
		"éclair":     {"Éclair", "éclair"},
		"жало":       {"Жало", "жало"},
		"“Ä” is so":  {"“Ä” is so", "“Ä” is so"},
		"0.4 mm":     {"0.4 mm", "0.4 mm"},
		"\xffbroken": {"\xffbroken", "\xffbroken"},
	} {
		if got := [2]string{sentence.Begin(text), sentence.Within(text)}; got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}
