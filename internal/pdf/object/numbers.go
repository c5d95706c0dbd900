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

// shortest is a date of which everything is left out that may be.
const shortest = "00000101000000"

// ReadDate reads a date (ISO 32000-2, 7.9.4), of which everything behind the year may be left out; the zero time when it is none. What is
// wrong behind the day is left out of account; without a zone it is UTC.
func ReadDate(s string) time.Time {
	s = strings.ReplaceAll(strings.TrimPrefix(strings.TrimSpace(s), "D:"), "'", "")
	n := 0
	for n < min(len(s), len(shortest)) && s[n] >= '0' && s[n] <= '9' {
		n++
	}
	if n < 4 {
		return time.Time{}
	}
	digits, zone := s[:n]+shortest[n:], s[n:]
	for _, layout := range []string{"Z0700", "-0700", "Z07", "-07", "Z"} {
		if t, err := time.Parse("20060102150405"+layout, digits+zone); err == nil {
			return t
		}
	}
	if t, err := time.Parse("20060102150405", digits); err == nil {
		return t
	}
	t, _ := time.Parse("20060102", digits[:8])
	return t
}
