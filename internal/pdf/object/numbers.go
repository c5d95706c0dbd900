package object

import (
	"fmt"
	_ "image/gif" // pictures of buttons come in these formats
	_ "image/jpeg"
	_ "image/png"
	"math"
	"strings"
	"time"

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

// Date is a time as PDF has it (ISO 32000-2, 7.9.4).
func Date(t time.Time) string { return "D:" + t.UTC().Format("20060102150405") + "Z" }

// ReadDate reads what [Date] writes, and what other writers make of it; the zero time when it is none. What is wrong behind the day is left
// out of account.
func ReadDate(s string) time.Time {
	s = strings.ReplaceAll(strings.TrimPrefix(s, "D:"), "'", "")
	for _, layout := range []string{"20060102150405Z0700", "20060102150405-0700", "20060102150405", "200601021504"} {
		if t, err := time.Parse(layout, s); err == nil {
			return t
		}
	}
	t, _ := time.Parse("20060102", s[:min(len(s), 8)])
	return t
}
