package firmware_test

import (
	"testing"

	"wardifex/internal/core/firmware"
)

func TestCardName(t *testing.T) {
	// Common practice: the board ignores a file named as the last one.
	for _, tt := range []struct {
		last, name, fixed string
		ok                bool
	}{
		{"", "build-1.bin", "", true}, {"build-1.bin", "build-2.bin", "", true},
		{"build-1.bin", "BUILD-1.BIN", "", false}, {"build-1.bin", " build-1.bin ", "", false},
		{"", "", "", false}, {"", "a/b.bin", "", false}, {"", `a"b.bin`, "", false},
		{"FLASH.BIN", "flash.bin", "flash.bin", true}, {"", "other.bin", "flash.bin", false},
	} {
		if err := firmware.CheckCardName(tt.last, tt.name, tt.fixed); (err == nil) != tt.ok {
			t.Errorf("last %q, new %q: %v", tt.last, tt.name, err)
		}
	}
}
