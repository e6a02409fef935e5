package recovered_test

import (
	"errors"
	"io"
	"strings"
	"testing"

	"wardifex/internal/core/recovered"
)

func TestFromTurnsAPanicIntoAnErrorWithItsStack(t *testing.T) {
	broken := func() error {
		var none []int
		_ = none[len(none)]
		return nil
	}
	err := recovered.From(broken)
	var p *recovered.Panic
	if !errors.As(err, &p) || !strings.Contains(string(p.Stack), "recovered_test.go") {
		t.Fatalf("got %v, want a panic with the stack of this file", err)
	}
	if err := recovered.From(func() error { panic(io.EOF) }); !errors.Is(err, io.EOF) {
		t.Errorf("a panic with an error does not unwrap to it: %v", err)
	}
	if err := recovered.From(func() error { return io.EOF }); err != io.EOF {
		t.Errorf("got %v, want the error as it was returned", err)
	}
	if err := recovered.From(func() error { return nil }); err != nil {
		t.Errorf("got %v, want no error", err)
	}
}
