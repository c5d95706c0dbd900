package object

import (
	"fmt"
	_ "image/gif" // pictures of buttons come in these formats
	_ "image/jpeg"
	_ "image/png"
	"math"
	"strings"

	_ "golang.org/x/image/webp"

	"zealousmargin.example/internal/geom"
)

// Dec writes a number for a content stream: no exponent, at most three places.
func Dec(v float64) string {
	s := strings.TrimRight(strings.TrimRight(fmt.Sprintf("%.3f", v), "0"), ".")
	if s == "-0" || s == "" {
		return "0"
	}
	return s
}

// DecFine writes a number that scales: six places.
func DecFine(v float64) string { return fmt.Sprintf("%.6f", v) }

// Near tells whether two rectangles are the same within the 0.01 point to which they are written.
func Near(a, b geom.Rect) bool {
	return math.Abs(a.X0-b.X0) < 0.02 && math.Abs(a.Y0-b.Y0) < 0.02 && math.Abs(a.X1-b.X1) < 0.02 && math.Abs(a.Y1-b.Y1) < 0.02
}
