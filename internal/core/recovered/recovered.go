// Package recovered turns panics into errors, so that what one goroutine does wrong ends neither the process nor
// leaves others waiting.
package recovered

import (
	"fmt"
	"runtime/debug"
)

// Panic is a panic that was recovered.
type Panic struct {
	Value any
	Stack []byte // of the goroutine that panicked
}

func (p *Panic) Error() string { return fmt.Sprintf("panic: %v\n%s", p.Value, p.Stack) }

// Unwrap returns the error that was panicked with; nil for any other value.
func (p *Panic) Unwrap() error {
	err, _ := p.Value.(error)
	return err
}

// From calls do and returns its error, or a *Panic where it panics.
func From(do func() error) (err error) {
	defer func() {
		if v := recover(); v != nil {
			err = Of(v)
		}
	}()
	return do()
}

// Of is the panic with a recovered value. Called in the deferred function that recovered it, it has the stack of
// the panic.
func Of(value any) *Panic { return &Panic{Value: value, Stack: debug.Stack()} }
