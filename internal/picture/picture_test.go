package picture_test

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"

	"wardifex/internal/picture"
)

// photo is a JPEG whose left upper quarter is red when it lies as stored, with
// an Exif note of how it is to be turned and a place behind it.
func photo(t testing.TB, orientation uint16) []byte {
	t.Helper()
	m := image.NewRGBA(image.Rect(0, 0, 64, 32))
	for y := range 32 {
		for x := range 64 {
			c := color.RGBA{0, 0, 255, 255}
			if x < 32 && y < 16 {
				c = color.RGBA{255, 0, 0, 255}
			}
			m.Set(x, y, c)
		}
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, m, &jpeg.Options{Quality: 95}); err != nil {
		t.Fatal(err)
	}
	tiff := []byte("II*\x00\x08\x00\x00\x00\x01\x00")
	tiff = binary.LittleEndian.AppendUint16(tiff, 0x0112)
	tiff = binary.LittleEndian.AppendUint16(tiff, 3)
	tiff = binary.LittleEndian.AppendUint32(tiff, 1)
	tiff = binary.LittleEndian.AppendUint16(tiff, orientation)
	tiff = append(tiff, "\x00\x00\x00\x00\x00\x00 GPS 54.1N 10.8E "...)
	body := append([]byte("Exif\x00\x00"), tiff...)
	segment := binary.BigEndian.AppendUint16([]byte{0xff, 0xe1}, uint16(len(body)+2))
	out := append([]byte{0xff, 0xd8}, append(segment, body...)...)
	return append(out, b.Bytes()[2:]...)
}

// Where the red quarter of the stored picture must be seen: Exif 2.32, tag
// 0x0112 ("the 0th row is at the visual …, the 0th column at the visual …").
func TestTurnedUprightAndStripped(t *testing.T) {
	for orientation, corner := range map[uint16]string{1: "left top", 2: "right top", 3: "right bottom",
		4: "left bottom", 5: "left top", 6: "right top", 7: "right bottom", 8: "left bottom"} {
		file := append(photo(t, orientation), "<script>alert(1)</script>"...)
		k, err := picture.Take(file)
		if err != nil {
			t.Fatal(err)
		}
		for _, trace := range []string{"GPS", "Exif", "script"} {
			if bytes.Contains(k.JPEG, []byte(trace)) || bytes.Contains(k.Small, []byte(trace)) {
				t.Errorf("orientation %d: %s is kept", orientation, trace)
			}
		}
		m, err := jpeg.Decode(bytes.NewReader(k.JPEG))
		if err != nil {
			t.Fatal(err)
		}
		if tall := m.Bounds().Dy() > m.Bounds().Dx(); tall != (orientation >= 5) || k.Width != m.Bounds().Dx() {
			t.Errorf("orientation %d: %v", orientation, m.Bounds())
		}
		x, y := m.Bounds().Dx()/8, m.Bounds().Dy()/8
		if strings.Contains(corner, "right") {
			x = m.Bounds().Dx() - x
		}
		if strings.Contains(corner, "bottom") {
			y = m.Bounds().Dy() - y
		}
		if r, _, b, _ := m.At(x, y).RGBA(); r < b {
			t.Errorf("orientation %d: no red at the %s", orientation, corner)
		}
	}
}

// header is a PNG that says its size and holds nothing.
func header(w, h uint32) []byte { return deepHeader(w, h, 8) }

// deepHeader has so many bits for each colour of a point.
func deepHeader(w, h uint32, bits byte) []byte {
	body := binary.BigEndian.AppendUint32([]byte("IHDR"), w)
	body = append(binary.BigEndian.AppendUint32(body, h), bits, 2, 0, 0, 0)
	out := append([]byte("\x89PNG\r\n\x1a\n"), 0, 0, 0, 13)
	out = append(out, body...)
	return binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(body))
}

func grayJPEG(t *testing.T) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, 100, 50)), nil); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestRefused(t *testing.T) {
	var small bytes.Buffer
	if err := png.Encode(&small, image.NewGray(image.Rect(0, 0, 900, 300))); err != nil {
		t.Fatal(err)
	}
	for part, file := range map[string][]byte{
		"60 million points; at most 40": header(10_000, 6_000),
		"400 million points":            header(20_000, 20_000),
		"not a picture":                 []byte(`<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`),
		"cut off":                       small.Bytes()[:small.Len()/2],
		"larger than 32 MiB":            make([]byte, picture.MaxBytes+1),
		"41 million points":             header(10_000, 4_100),
	} {
		if _, err := picture.Take(file); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("want %q, got %v", part, err)
		}
	}
	for name, c := range map[string]struct {
		file []byte
		most int64 // bytes for each point
	}{
		"gray JPEG":   {grayJPEG(t), 1},
		"PNG":         {header(2000, 1000), 4},
		"deep PNG":    {deepHeader(2000, 1000, 16), 8 + 4},
		"turned JPEG": {photo(t, 6), 3 + 4},
		"JPEG":        {photo(t, 1), 3},
	} {
		size, _, err := image.DecodeConfig(bytes.NewReader(c.file))
		if err != nil {
			t.Fatal(err)
		}
		needs, err := picture.Needs(c.file)
		if want := c.most*int64(size.Width*size.Height) + 4*picture.SmallSide*picture.SmallSide; err != nil || needs != want {
			t.Errorf("%s needs %d bytes, want %d: %v", name, needs, want, err)
		}
	}
	k, err := picture.Take(small.Bytes())
	if err != nil || k.Width != 900 {
		t.Fatalf("a plain PNG: %+v, %v", k.Width, err)
	}
	if m, err := jpeg.Decode(bytes.NewReader(k.Small)); err != nil || m.Bounds().Dx() != picture.SmallSide ||
		m.Bounds().Dy() != 160 {
		t.Errorf("the small copy: %v, %v", m.Bounds(), err)
	}
}

func FuzzTake(f *testing.F) {
	f.Add(photo(f, 6))
	f.Add(header(4, 4))
	f.Fuzz(func(t *testing.T, file []byte) {
		if k, err := picture.Take(file); err == nil {
			if _, err := jpeg.Decode(bytes.NewReader(k.JPEG)); err != nil {
				t.Error("what is kept is no picture")
			}
		}
	})
}

func TestPlain(t *testing.T) {
	noted := photo(t, 1)
	if picture.Plain(noted) || picture.Plain(nil) {
		t.Error("a picture with a note is not plain")
	}
	k, err := picture.Take(noted)
	if err != nil || !picture.Plain(k.JPEG) || picture.Plain(append(k.JPEG, "<script>"...)) {
		t.Errorf("what is kept is plain, and no more with a script behind it: %v", err)
	}
}
