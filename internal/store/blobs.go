package store

import "gocloud.dev/blob"

// UsePhotos gives the store the place where pictures are kept.
func (s *Store) UsePhotos(b *blob.Bucket) { s.photos = b }
