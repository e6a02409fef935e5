package main

import (
	"archive/tar"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"
	"gocloud.dev/blob"
)

// A backup is a tar archive: the database as pg_dump writes it, and every
// picture.
const (
	dumpName  = "database.dump"
	photosDir = "photos/"
)

func backupCommand() *cobra.Command {
	return &cobra.Command{Use: "backup FILE", Short: "Write the database (pg_dump) and the pictures to one file", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if _, err := os.Stat(args[0]); err == nil {
				return fmt.Errorf("%s is there already; choose another name, so that no backup is overwritten", args[0])
			}
			set, err := readSettings(true)
			if err != nil {
				return err
			}
			return backup(cmd.Context(), set, args[0])
		}}
}

func backup(ctx context.Context, set settings, file string) (err error) {
	dir, err := os.MkdirTemp(filepath.Dir(file), "wardifex-backup-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	dump := filepath.Join(dir, dumpName)
	if err := tool(ctx, "pg_dump", "--format=custom", "--no-owner", "--file="+dump, set.Database); err != nil {
		return err
	}
	photos, err := openPhotos(ctx, set.Photos)
	if err != nil {
		return err
	}
	defer photos.Close()
	// Finished under another name, so that what bears the name is whole.
	whole := filepath.Join(dir, "whole.tar")
	out, err := os.Create(whole)
	if err != nil {
		return err
	}
	archive := tar.NewWriter(out)
	text, err := os.ReadFile(dump)
	if err == nil {
		err = entry(archive, dumpName, text)
	}
	if err == nil {
		err = packPhotos(ctx, archive, photos)
	}
	if err = errors.Join(err, archive.Close(), out.Close()); err != nil {
		return err
	}
	return os.Rename(whole, file)
}

func entry(archive *tar.Writer, name string, text []byte) error {
	if err := archive.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: int64(len(text))}); err != nil {
		return err
	}
	_, err := archive.Write(text)
	return err
}

func packPhotos(ctx context.Context, archive *tar.Writer, photos *blob.Bucket) error {
	list := photos.List(nil)
	for {
		at, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		text, err := photos.ReadAll(ctx, at.Key)
		if err != nil {
			return err
		}
		if err := entry(archive, photosDir+at.Key, text); err != nil {
			return err
		}
	}
}

func restoreCommand() *cobra.Command {
	return &cobra.Command{Use: "restore FILE", Short: "Read a backup into an empty database and the folder of pictures", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			set, err := readSettings(true)
			if err != nil {
				return err
			}
			return restore(cmd.Context(), set, args[0])
		}}
}

func restore(ctx context.Context, set settings, file string) error {
	in, err := os.Open(file)
	if err != nil {
		return err
	}
	defer in.Close()
	head := make([]byte, 5)
	if _, err := io.ReadFull(in, head); err == nil && bytes.Equal(head, []byte("PGDMP")) {
		return pgRestore(ctx, set, file) // from before pictures had a place of their own
	}
	if _, err := in.Seek(0, io.SeekStart); err != nil {
		return err
	}
	photos, err := openPhotos(ctx, set.Photos)
	if err != nil {
		return err
	}
	defer photos.Close()
	archive := tar.NewReader(in)
	for {
		at, err := archive.Next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("%s is no backup that can be read: %w", file, err)
		}
		switch key, isPhoto := strings.CutPrefix(at.Name, photosDir); {
		case at.Name == dumpName:
			if err := restoreDump(ctx, set, archive); err != nil {
				return err
			}
		case isPhoto:
			text, err := io.ReadAll(archive)
			if err != nil {
				return err
			}
			if err := photos.WriteAll(ctx, key, text, &blob.WriterOptions{ContentType: "image/jpeg"}); err != nil {
				return err
			}
		}
	}
}

func restoreDump(ctx context.Context, set settings, from io.Reader) error {
	dump, err := os.CreateTemp("", "wardifex-restore-")
	if err != nil {
		return err
	}
	defer os.Remove(dump.Name())
	_, err = io.Copy(dump, from)
	if err := errors.Join(err, dump.Close()); err != nil {
		return err
	}
	return pgRestore(ctx, set, dump.Name())
}

func pgRestore(ctx context.Context, set settings, file string) error {
	return tool(ctx, "pg_restore", "--no-owner", "--single-transaction", "--exit-on-error", file, "--dbname", set.Database)
}

// tool runs one of PostgreSQL's tools.
func tool(ctx context.Context, name string, args ...string) error {
	run := exec.CommandContext(ctx, name, args...)
	run.Stdout, run.Stderr = os.Stdout, os.Stderr
	if err := run.Run(); err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	return nil
}
