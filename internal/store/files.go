package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Hash is a file's SHA-256, under which it is kept.
type Hash [sha256.Size]byte

func hashOf(column []byte) (h Hash, ok bool) { return h, copy(h[:], column) == len(h) }

type fileRow struct {
	Sha256 []byte `gorm:"primaryKey"`
	Size   int64
}

func (fileRow) TableName() string { return "files" }

// chunkSize is how much of a file is in memory at once.
const chunkSize = 1 << 20

// KeepFile keeps a file of the hash given, of which from gives the bytes. What is kept
// already is not written again, and from is not read.
func (s *Store) KeepFile(ctx context.Context, h Hash, size int64, from io.Reader) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		written := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&fileRow{Sha256: h[:], Size: size})
		if written.Error != nil || written.RowsAffected == 0 {
			return written.Error
		}
		chunk := make([]byte, min(chunkSize, max(size, 1)))
		for n := 0; ; n++ {
			read, err := io.ReadFull(from, chunk)
			if read > 0 {
				if err := tx.Exec("insert into file_chunks (n, sha256, content) values (?, ?, ?)", n, h[:],
					chunk[:read]).Error; err != nil {
					return err
				}
			}
			if err == io.EOF || err == io.ErrUnexpectedEOF {
				return nil
			}
			if err != nil {
				return fmt.Errorf("reading the file that is to be kept: %w", err)
			}
		}
	})
}

// keepBytes keeps a small file.
func (s *Store) keepBytes(ctx context.Context, content []byte) (Hash, error) {
	h := Hash(sha256.Sum256(content))
	return h, s.KeepFile(ctx, h, int64(len(content)), bytes.NewReader(content))
}

// File reads a file whole.
func (s *Store) File(ctx context.Context, h Hash) ([]byte, error) { return file(s.from(ctx), h) }

func file(tx *gorm.DB, h Hash) ([]byte, error) {
	var row fileRow
	if err := tx.First(&row, "sha256 = ?", h[:]).Error; err != nil {
		return nil, found(err)
	}
	rows, err := tx.Raw("select content from file_chunks where sha256 = ? order by n", h[:]).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := make([]byte, 0, row.Size)
	for rows.Next() {
		var chunk []byte
		if err := rows.Scan(&chunk); err != nil {
			return nil, err
		}
		out = append(out, chunk...)
	}
	return out, rows.Err()
}

// Upload is a file that somebody sent in, to be read by a write that follows.
type Upload struct {
	SHA256 []byte
	Name   string
	Size   int64
}

// AddUpload notes that an account sent a file in that is kept.
func (s *Store) AddUpload(ctx context.Context, account int64, h Hash, name string, now time.Time) error {
	return s.from(ctx).
		Exec("insert into uploads (account_id, sha256, name, sent_at) values (?, ?, ?, ?)", account, h[:], name, now).
		Error
}

// UploadedSize is how large a file is that an account sent in.
func (s *Store) UploadedSize(ctx context.Context, account int64, h Hash) (int64, error) {
	var sizes []int64
	err := s.from(ctx).
		Raw("select f.size from uploads u join files f using (sha256) where u.account_id = ? and u.sha256 = ? limit 1",
			account, h[:]).
		Scan(&sizes).
		Error
	if err != nil || len(sizes) == 0 {
		return 0, cmpErr(err, ErrNotFound)
	}
	return sizes[0], nil
}

// Uploaded reads a file that an account sent in.
func (s *Store) Uploaded(ctx context.Context, account int64, h Hash) ([]byte, error) {
	if _, err := s.UploadedSize(ctx, account, h); err != nil {
		return nil, err
	}
	return file(s.from(ctx), h)
}

// CleanUp throws away what has had its time: keys of writes after 14 days, files sent in
// after a day, tries to sign in after one, and files that nothing refers to.
func (s *Store) CleanUp(ctx context.Context, now time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		for _, old := range []struct {
			table, column string
			after         time.Duration
		}{{"write_keys", "at", 14 * 24 * time.Hour}, {"uploads", "sent_at", 24 * time.Hour}, {"sign_in_tries", "at",
			24 * time.Hour}, {"sessions", "expiry", 0}, {"notices", "at", 180 * 24 * time.Hour},
			{"roster_runs", "asked_at", 90 * 24 * time.Hour}, {"feed_times", "ends", 7 * 24 * time.Hour},
			{"print_files", "ended_at", 30 * 24 * time.Hour}} {
			if err := tx.Exec("delete from "+old.table+" where "+old.column+" < ?", now.Add(-old.after)).Error; err != nil {
				return err
			}
		}
		return tx.Exec(
			`delete from files f where kept_at < ? and not exists (select from photos where sha256 = f.sha256 or
				small_sha256 = f.sha256)
			and not exists (select from uploads where sha256 = f.sha256)
			and not exists (select from build_files where sha256 = f.sha256)
			and not exists (select from settings_files where sha256 = f.sha256)`,
			now.Add(-time.Hour),
		).Error
	})
}

// String is a hash as it is written, 64 digits from 0 to f.
func (h Hash) String() string { return hex.EncodeToString(h[:]) }

// HashOf is the hash of a file's content.
func HashOf(content []byte) Hash { return sha256.Sum256(content) }
