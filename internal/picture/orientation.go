package picture

import (
	"bytes"

	"github.com/bep/imagemeta"
)

// orientation reads from its Exif note how a picture lies; 1, upright, when there is none or
// it cannot be read. Source: Exif 2.32, tag 0x0112.
func orientation(file []byte, format string) int {
	formats := map[string]imagemeta.ImageFormat{"jpeg": imagemeta.JPEG, "webp": imagemeta.WebP}
	lies := 1
	if _, ok := formats[format]; !ok {
		return lies
	}
	// What is wrong with a note is no fault of the picture.
	_, _ = imagemeta.Decode(imagemeta.Options{
		R:               bytes.NewReader(file),
		ImageFormat:     formats[format],
		Sources:         imagemeta.EXIF,
		ShouldHandleTag: func(tag imagemeta.TagInfo) bool { return tag.Tag == "Orientation" && tag.Namespace == "IFD0" },
		HandleTag: func(tag imagemeta.TagInfo) error {
			if v, ok := tag.Value.(uint16); ok && v >= 1 && v <= 8 {
				lies = int(v)
			}
			return imagemeta.ErrStopWalking
		},
	})
	return lies
}
