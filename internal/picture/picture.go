// Package picture makes photographs fit to keep: upright, bounded, and stripped
// of everything but the picture itself.
package picture

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/draw"
	"image/jpeg"
	_ "image/png" // pictures of screens

	xdraw "golang.org/x/image/draw"
	_ "golang.org/x/image/webp" // what some tablets send
)

// MaxBytes bounds a picture's file: large enough that one with too many points
// is refused for its points, by name.
const MaxBytes = 64 << 20

// MaxPoints bounds its width × height.
const MaxPoints = 40_000_000

// SmallSide is the longer side of the small copy, in points.
const SmallSide = 480

// Kept is a picture as it is kept.
type Kept struct {
	JPEG, Small   []byte
	Width, Height int
}

// Take reads a JPEG, PNG or WebP, turns it upright by its own note, and encodes
// it anew: no place, no camera, no script hidden behind the picture is kept.
// The error is a sentence for the person who took it.
func Take(file []byte) (Kept, error) {
	if len(file) > MaxBytes {
		return Kept{}, fmt.Errorf("the file is larger than %d MB; take a smaller picture", MaxBytes>>20)
	}
	size, format, err := image.DecodeConfig(bytes.NewReader(file))
	if err != nil {
		return Kept{}, errors.New("this is not a picture that can be read; take a JPEG, PNG or WebP")
	}
	if size.Width < 1 || size.Height < 1 || size.Width > MaxPoints/size.Height {
		return Kept{}, fmt.Errorf("the picture has %.0f million points; at most %d million are kept. Set the camera to a smaller size", float64(size.Width)*float64(size.Height)/1e6, MaxPoints/1_000_000)
	}
	read, _, err := image.Decode(bytes.NewReader(file))
	if err != nil {
		return Kept{}, errors.New("the picture is cut off or damaged; take it again")
	}
	turn := 1
	if format == "jpeg" {
		turn = orientation(file)
	}
	upright := turned(read, turn)
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
	from := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(from, from.Bounds(), m, b.Min, draw.Src)
	size := image.Rect(0, 0, w, h)
	if orientation >= 5 {
		size = image.Rect(0, 0, h, w)
	}
	to := image.NewRGBA(size)
	for y := range h {
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
			copy(to.Pix[to.PixOffset(p, q):][:4], from.Pix[from.PixOffset(x, y):][:4])
		}
	}
	return to
}
