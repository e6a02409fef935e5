package app

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"os"
	"strings"

	"wardifex/internal/core/dialect"
	"wardifex/internal/core/settings"
	"wardifex/internal/store"
)

// TakeMemory waits until so many bytes may be used for reading something large, and gives
// what returns them. What is more than all there is waits for all.
func (a *App) TakeMemory(ctx context.Context, bytes int64) (release func(), err error) {
	bytes = min(max(bytes, 1), mostMemory)
	if err := a.memory.Acquire(ctx, bytes); err != nil {
		return nil, err
	}
	return func() { a.memory.Release(bytes) }, nil
}

// Upload is a file that was sent in.
type Upload struct {
	SHA256 string `json:"sha256" doc:"By which the file is named when it is read"`
	Size   int64  `json:"size" doc:"In bytes"`
}

// Upload keeps a file that an account sends in, for a day, to be read by what follows. It
// goes over the disk, so that memory holds a piece of it at a time.
func (a *App) Upload(ctx context.Context, account int64, name string, from io.Reader) (Upload, error) {
	spool, err := os.CreateTemp("", "wardifex-upload-")
	if err != nil {
		return Upload{}, &DiskFault{err}
	}
	defer spool.Close()
	if err := os.Remove(spool.Name()); err != nil { // it stays while it is open, and goes whatever happens
		return Upload{}, &DiskFault{err}
	}
	sum := sha256.New()
	size, err := io.Copy(diskWriter{spool}, io.TeeReader(from, sum))
	if err != nil {
		return Upload{}, err
	}
	if _, err := spool.Seek(0, io.SeekStart); err != nil {
		return Upload{}, &DiskFault{err}
	}
	hash := store.Hash(sum.Sum(nil))
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.KeepFile(ctx, hash, size, spool); err != nil {
			return err
		}
		return a.store.AddUpload(ctx, account, hash, name, a.now())
	})
	return Upload{SHA256: hex.EncodeToString(hash[:]), Size: size}, err
}

// UploadSettings keeps a text of settings that an account sends in, without its secrets, for a day.
func (a *App) UploadSettings(ctx context.Context, account int64, name string, from io.Reader) (Upload, error) {
	text, err := io.ReadAll(io.LimitReader(from, dialect.MostBytes+1))
	if err != nil {
		return Upload{}, err
	}
	if len(text) > dialect.MostBytes {
		return Upload{}, refuse("the file %s is larger than %d MiB: settings are text of a few hundred KiB", name,
			dialect.MostBytes>>20)
	}
	masked, _ := settings.Mask(strings.ToValidUTF8(string(text), "\uFFFD"))
	return a.Upload(ctx, account, name, strings.NewReader(masked))
}

// Uploaded gives a file that an account sent in, with what returns the memory that it
// takes, which is counted with what is made of it.
func (a *App) Uploaded(ctx context.Context, account int64, sha string) (content []byte, release func(), err error) {
	hash, err := hex.DecodeString(sha)
	if err != nil || len(hash) != sha256.Size {
		return nil, nil, refuse("a file is named by its SHA-256, 64 digits from 0 to f, as its upload answers")
	}
	size, err := a.store.UploadedSize(ctx, account, store.Hash(hash))
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, refuse("this file is not here any more: files that were sent in are kept for a day. Choose it again")
	}
	if err != nil {
		return nil, nil, err
	}
	release, err = a.TakeMemory(ctx, 4*size)
	if err != nil {
		return nil, nil, err
	}
	if content, err = a.store.Uploaded(ctx, account, store.Hash(hash)); err != nil {
		release()
		return nil, nil, err
	}
	// What is made of a text with many small entries is larger than the text.
	if entries := int64(bytes.Count(content, []byte{'{'})); entries > 0 {
		release()
		if release, err = a.TakeMemory(ctx, 4*size+entries*entryBytes); err != nil {
			return nil, nil, err
		}
	}
	return content, release, nil
}

// entryBytes is what an entry of a file takes in memory beside its text. Source: measured, of a record's machines.
const entryBytes = 700

// DiskFault is a fault of the computer's own disk, which is no fault of the database.
type DiskFault struct{ Cause error }

func (d *DiskFault) Error() string {
	return "the computer's disk did not take what had to be put there for the moment (" + reason(d.Cause) +
		"): make room on it, or tell whoever keeps the computer"
}

func (d *DiskFault) Unwrap() error { return d.Cause }

// reason is what went wrong without the name of the file, which tells a person nothing.
func reason(err error) string {
	var path *os.PathError
	if errors.As(err, &path) {
		return path.Err.Error()
	}
	return err.Error()
}

// diskWriter tells faults of the disk from those of what is read.
type diskWriter struct{ to io.Writer }

func (w diskWriter) Write(p []byte) (int, error) {
	n, err := w.to.Write(p)
	if err != nil {
		err = &DiskFault{err}
	}
	return n, err
}
