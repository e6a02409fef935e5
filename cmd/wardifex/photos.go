package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"wardifex/internal/store"
)

// takePhotosIn takes pictures into the database that an earlier version kept in a folder.
func takePhotosIn(ctx context.Context, st *store.Store, where string) error {
	where = strings.TrimPrefix(where, "file://")
	dir, err := filepath.Abs(where)
	if err != nil {
		return err
	}
	lost, err := st.TakePhotosIn(ctx, os.DirFS(dir))
	if err != nil {
		return fmt.Errorf("the folder for pictures of an earlier version, %s: %w", dir, err)
	}
	if len(lost) > 0 {
		fmt.Fprintf(
			os.Stderr,
			"%d pictures are on record whose files are not in %s; name the folder that an earlier version kept them in "+
				"with WARDIFEX_PHOTOS.\n",
			len(lost),
			dir,
		)
	}
	return nil
}
