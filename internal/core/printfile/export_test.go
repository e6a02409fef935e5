package printfile

import (
	"context"
	"io"
)

// ScanBy is Scan that reads so many bytes at once, so that pieces end anywhere.
func ScanBy(ctx context.Context, from io.Reader, _ func(int64), size int) (*Profile, error) {
	return scan(ctx, from, nil, size, false)
}

// ScanPlain is Scan that reads every line by itself, in one piece.
func ScanPlain(ctx context.Context, from io.Reader) (*Profile, error) {
	return scan(ctx, from, nil, 1<<20, true)
}

// Longest is the longest line that is read.
const Longest = longest
