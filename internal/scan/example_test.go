package scan_test

import (
	"fmt"
	"image"
	"image/color"

	"zealousmargin.example/internal/scan"
)

// A black line on white paper is measured.
func Example() {
	g := image.NewGray(image.Rect(0, 0, 600, 300))
	for i := range g.Pix {
		g.Pix[i] = 255
	}
	for x := 100; x < 500; x++ {
		for y := 150; y < 153; y++ {
			g.SetGray(x, y, color.Gray{})
		}
	}
	ink := scan.Threshold(g)
	fmt.Println(ink != nil, len(scan.FindMarks(g, 200).Across))
	// Output: true 1
}
