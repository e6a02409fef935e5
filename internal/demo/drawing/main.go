// Drawing draws the photographs of the demo room anew: go run ./internal/demo/drawing. They
// are kept as files, so that the application carries no drawing code.
package main

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"log"
	"os"
	"path/filepath"

	"golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/basicfont"
	"golang.org/x/image/math/fixed"
)

func main() {
	for name, lines := range map[string][]string{
		"ibis-processor":  {"ARM", "TW32F RET6", "2 349"},
		"heron-processor": {"ARM", "QK32 RCT6", "1 102"},
	} {
		if err := os.WriteFile(filepath.Join("internal/demo/pictures", name+".jpg"), chip(lines), 0o644); err != nil {
			log.Fatal(err)
		}
	}
}

// chip draws a photograph of a chip with its marking, as JPEG.
func chip(lines []string) []byte {
	const w, h, scale = 120, 90, 6
	small := image.NewRGBA(image.Rect(0, 0, w, h))
	fill := func(r image.Rectangle, c color.RGBA) {
		draw.Draw(small, r, image.NewUniform(c), image.Point{}, draw.Src)
	}
	fill(small.Bounds(), color.RGBA{38, 84, 70, 255}) // the board
	for i := range 10 {
		x := 20 + i*8
		fill(image.Rect(x, 6, x+4, 14), color.RGBA{176, 178, 170, 255})
		fill(image.Rect(x, 76, x+4, 84), color.RGBA{176, 178, 170, 255})
	}
	fill(image.Rect(14, 13, 106, 77), color.RGBA{34, 35, 38, 255})
	pen := font.Drawer{Dst: small, Src: image.NewUniform(color.RGBA{190, 190, 186, 255}), Face: basicfont.Face7x13}
	for i, line := range lines {
		pen.Dot = fixed.P(20, 32+i*17)
		pen.DrawString(line)
	}
	large := image.NewRGBA(image.Rect(0, 0, w*scale, h*scale))
	draw.BiLinear.Scale(large, large.Bounds(), small, small.Bounds(), draw.Src, nil)
	var out bytes.Buffer
	if err := jpeg.Encode(&out, large, &jpeg.Options{Quality: 85}); err != nil {
		panic(err) // writing to memory
	}
	return out.Bytes()
}
