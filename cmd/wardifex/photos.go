package main

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"gocloud.dev/blob"
	"gocloud.dev/blob/fileblob"
)

// openPhotos opens the place that keeps pictures: a folder, made when it is
// missing, or the address of another blob store that is built in.
func openPhotos(ctx context.Context, where string) (*blob.Bucket, error) {
	if strings.Contains(where, "://") {
		b, err := blob.OpenBucket(ctx, where)
		if err != nil {
			return nil, fmt.Errorf("WARDIFEX_PHOTOS: %w; a folder is written plainly, such as /srv/wardifex/photos", err)
		}
		return b, nil
	}
	dir, err := filepath.Abs(where)
	if err != nil {
		return nil, err
	}
	b, err := fileblob.OpenBucket(dir, &fileblob.Options{CreateDir: true, NoTempDir: true, Metadata: fileblob.MetadataDontWrite})
	if err != nil {
		return nil, fmt.Errorf("the folder for pictures, %s: %w", dir, err)
	}
	return b, nil
}
