package printfile

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"runtime"
	"sync"
	"sync/atomic"

	"wardifex/internal/core/recovered"
)

// Scan reads a file to its end, on all processors. progress, if not nil, is told how many bytes
// have been read. The error is of a source that broke off, or of what is no G-code at all; nothing
// is known then.
func Scan(ctx context.Context, from io.Reader, progress func(bytes int64)) (*Profile, error) {
	return scan(ctx, from, progress, block, false)
}

// scan reads so many bytes at once; plain says that every line is read by itself.
func scan(ctx context.Context, from io.Reader, progress func(bytes int64), block int, plain bool) (*Profile, error) {
	workers := min(runtime.GOMAXPROCS(0), 4)
	f := &file{
		from:     from,
		block:    block,
		progress: progress,
		whole:    newScanner(),
		plain:    plain,
		work:     make(chan *job, workers),
		order:    make(chan *job, 2*workers),
		free:     make(chan []byte, 2*workers+2),
	}
	f.whole.plain = plain
	var all sync.WaitGroup
	for range workers {
		all.Go(func() {
			for j := range f.work {
				f.step(func() { j.piece.block(j.text[j.head:]) })
				close(j.done)
			}
		})
	}
	all.Go(f.merge)
	err := recovered.From(func() error { return f.read(ctx) })
	close(f.work)
	close(f.order)
	all.Wait()
	if err == nil {
		err = f.fault()
	}
	if err != nil {
		return nil, err
	}
	p, err := f.whole.profile()
	if err == nil && f.cut {
		for i := range p.Overrides {
			p.Overrides[i].From = -1
		}
		p.HomedEnd = -1
		if p.ProbedBy != nil {
			p.ProbedBy.From = -1
		}
	}
	return p, err
}

// file is one that is being read: blocks of whole lines go to workers, and what they found is put
// together in the order of the file.
type file struct {
	from     io.Reader
	block    int
	plain    bool
	progress func(int64)
	work     chan *job
	order    chan *job
	free     chan []byte

	// cut says that a line was cut off, so that nothing after it stands where it seems to.
	cut bool

	failed atomic.Pointer[error] // the first panic

	mu    sync.Mutex // guards whole while it grows
	whole *scanner
}

// job is a block of whole lines.
type job struct {
	buf   []byte
	text  []byte
	head  int // bytes of lines at its begin that are read where what is before them is known
	piece *scanner
	done  chan struct{}
}

// merge puts pieces together in the order of the file.
func (f *file) merge() {
	for j := range f.order {
		<-j.done
		f.step(func() { f.join(j) })
		select {
		case f.free <- j.buf:
		default:
		}
	}
}

func (f *file) join(j *job) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.whole.block(j.text[:j.head])
	if !f.whole.absorb(j.piece) {
		f.whole.block(j.text[j.head:])
	}
}

// step does a part of the reading, unless an earlier one panicked: a reader that fails on a file must fail on
// that file alone.
func (f *file) step(do func()) {
	if f.fault() != nil {
		return
	}
	err := recovered.From(func() error { do(); return nil })
	if err != nil {
		f.failed.CompareAndSwap(nil, &err)
	}
}

// fault is the panic that ended the reading; nil where there was none.
func (f *file) fault() error {
	if err := f.failed.Load(); err != nil {
		return *err
	}
	return nil
}

// piece begins one with the modes at the end of what was put together so far: they rarely change after the start.
// The error is of what turned out to be no G-code.
func (f *file) piece() (*scanner, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	s := newPiece(f.whole)
	s.plain = f.plain
	return s, f.whole.noText()
}

func (f *file) buffer() []byte {
	select {
	case b := <-f.free:
		return b
	default:
		return make([]byte, f.block+longest)
	}
}

// read cuts the file into blocks of whole lines.
func (f *file) read(ctx context.Context) error {
	var rest []byte // the begin of a line that goes on
	skipping := false
	read := int64(0)
	for {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := f.fault(); err != nil {
			return err
		}
		buf := f.buffer()
		kept := copy(buf, rest)
		n, err := io.ReadFull(f.from, buf[kept:kept+f.block])
		if read += int64(n); f.progress != nil {
			f.progress(read)
		}
		if read > MostBytes {
			return fmt.Errorf("unpacked it is larger than %d GiB: no slicer writes that much", MostBytes>>30)
		}
		have := buf[:kept+n]
		last := errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF)
		if err != nil && !last {
			return fmt.Errorf("the file broke off after %d bytes: %w", read, err)
		}
		text := have
		if skipping {
			cut := bytes.IndexByte(text, '\n')
			skipping = cut < 0
			text = text[cut+1:]
			if skipping {
				text = nil
			}
		}
		end := len(text)
		if !last {
			end = bytes.LastIndexByte(text, '\n') + 1
		}
		if left := text[end:]; len(left) > longest {
			// What is looked at of a line without an end is enough to say so.
			text, end, rest, skipping = text[:end+longest+1], end+longest+1, nil, true
			text[end-1] = '\n'
			f.cut = true
		} else {
			rest = bytes.Clone(left)
		}
		text = text[:end]
		if len(text) > 0 {
			piece, err := f.piece()
			if err != nil {
				return err
			}
			j := &job{buf: buf, text: text, head: headOf(text), piece: piece, done: make(chan struct{})}
			f.order <- j
			f.work <- j
		}
		if last {
			return nil
		}
	}
}
