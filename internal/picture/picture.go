// Package picture makes photographs fit to keep: upright, bounded, and stripped
// of everything but the picture itself.
package picture

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	_ "image/png" // pictures of screens

	xdraw "golang.org/x/image/draw"
	_ "golang.org/x/image/webp" // what some tablets send
)

// MaxBytes bounds a picture's file.
const MaxBytes = 32 << 20

// MaxPoints bounds its width × height.
const MaxPoints = 40_000_000

// MaxNeeds bounds the memory, in bytes, that a picture may take while it is decoded,
// turned and encoded anew.
const MaxNeeds = 288 << 20

// SmallSide is the longer side of the small copy, in points.
const SmallSide = 480

// Kept is a picture as it is kept.
type Kept struct {
	JPEG, Small   []byte
	Width, Height int
}

// Needs is how much memory a picture takes while it is made fit to keep, in bytes, at
// most MaxNeeds. It reads the head of the file alone. The error is a sentence for the
// person who took the picture.
func Needs(file []byte) (int64, error) {
	if len(file) > MaxBytes {
		return 0, fmt.Errorf("the file is larger than %d MiB; take a smaller picture", MaxBytes>>20)
	}
	size, format, err := image.DecodeConfig(bytes.NewReader(file))
	if err != nil {
		return 0, errors.New("this is not a picture that can be read; take a JPEG, PNG or WebP")
	}
	if size.Width < 1 || size.Height < 1 || size.Width > MaxPoints/size.Height {
		return 0, fmt.Errorf(
			"the picture has %.0f million points; at most %d million are kept. Set the camera to a smaller size",
			float64(size.Width)*float64(size.Height)/1e6,
			MaxPoints/1_000_000,
		)
	}
	perPoint := int64(8 + 4) // of 16 bits a colour, and once more as it is encoded
	switch {
	case size.ColorModel == color.GrayModel:
		perPoint = 1
	case format == "jpeg" && !progressive(file):
		perPoint = 3
	case format == "jpeg":
		perPoint = 3 + 12 // its coefficients, four bytes each, are all there until the last scan
	case format == "png" && size.ColorModel == color.RGBAModel:
		perPoint = 4
	case format == "png" && !deep(size.ColorModel):
		perPoint = 4 + 4
	}
	if orientation(file, format) > 1 {
		perPoint += 4 // the picture that stands upright
	}
	needs := perPoint*int64(size.Width)*int64(size.Height) + int64(4*SmallSide*SmallSide)
	if needs > MaxNeeds {
		return 0, fmt.Errorf(
			"decoding this picture takes %d MiB of memory, and %d are given to one; set the camera to a smaller size or "+
				"fewer bits a colour",
			needs>>20,
			MaxNeeds>>20,
		)
	}
	return needs, nil
}

// deep reports whether a picture has 16 bits for each colour of a point.
func deep(m color.Model) bool {
	return m == color.RGBA64Model || m == color.NRGBA64Model || m == color.Gray16Model
}

// Take reads a JPEG, PNG or WebP, turns it upright by its own note, and encodes
// it anew: no place, no camera, no script hidden behind the picture is kept.
// The error is a sentence for the person who took it.
func Take(file []byte) (Kept, error) {
	if _, err := Needs(file); err != nil {
		return Kept{}, err
	}
	read, format, err := image.Decode(bytes.NewReader(file))
	if err != nil {
		return Kept{}, errors.New("the picture is cut off or damaged; take it again")
	}
	upright := plain(turned(read, orientation(file, format)))
	b := upright.Bounds()
	k := Kept{Width: b.Dx(), Height: b.Dy()}
	if k.JPEG, err = encode(upright, 88); err != nil {
		return k, err
	}
	small := upright
	if longest := max(k.Width, k.Height); longest > SmallSide {
		w, h := max(1, k.Width*SmallSide/longest), max(1, k.Height*SmallSide/longest)
		to := image.NewRGBA(image.Rect(0, 0, w, h))
		xdraw.ApproxBiLinear.Scale(to, to.Bounds(), upright, b, draw.Src, nil)
		small = to
	}
	k.Small, err = encode(small, 80)
	return k, err
}

// plain is a picture as the encoder takes it point by point; any other it would ask for
// each point as a value of its own, which takes more memory than the picture.
func plain(m image.Image) image.Image {
	switch m.(type) {
	case *image.RGBA, *image.YCbCr, *image.Gray:
		return m
	}
	to := image.NewRGBA(image.Rect(0, 0, m.Bounds().Dx(), m.Bounds().Dy()))
	draw.Draw(to, to.Bounds(), m, m.Bounds().Min, draw.Src)
	return to
}

func encode(m image.Image, quality int) ([]byte, error) {
	var out bytes.Buffer
	err := jpeg.Encode(&out, m, &jpeg.Options{Quality: quality})
	return out.Bytes(), err
}

// turned lays a picture upright. Source: Exif 2.32, tag 0x0112: 1 as it is, 2
// mirrored, 3 upside down, 4 both, 5 to 8 the same turned by a quarter.
func turned(m image.Image, orientation int) image.Image {
	if orientation < 2 || orientation > 8 {
		return m
	}
	b := m.Bounds()
	w, h := b.Dx(), b.Dy()
	size := image.Rect(0, 0, w, h)
	if orientation >= 5 {
		size = image.Rect(0, 0, h, w)
	}
	to := image.NewRGBA(size)
	// Row by row: of a large picture a second copy is more than there is room for.
	from := image.NewRGBA(image.Rect(0, 0, w, 1))
	for y := range h {
		draw.Draw(from, from.Bounds(), m, b.Min.Add(image.Pt(0, y)), draw.Src)
		for x := range w {
			var p, q int
			switch orientation {
			case 2:
				p, q = w-1-x, y
			case 3:
				p, q = w-1-x, h-1-y
			case 4:
				p, q = x, h-1-y
			case 5:
				p, q = y, x
			case 6:
				p, q = h-1-y, x
			case 7:
				p, q = h-1-y, w-1-x
			case 8:
				p, q = y, w-1-x
			}
			copy(to.Pix[to.PixOffset(p, q):][:4], from.Pix[from.PixOffset(x, 0):][:4])
		}
	}
	return to
}
