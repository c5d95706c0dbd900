package look

import (
	"math"
	"strings"

	"zealousmargin.example/internal/form"
)

// TextFits tells whether text fits a field as it would be set, and at which size in points,
// measured with the metrics of its font.
func TextFits(f form.Field, text string) (ok bool, size float64) {
	var set Typeface = helvetica
	switch e := embeddedFace(f.Look.Font); {
	case e != nil:
		set = e
	case !encodable(text):
		set = Wide
	case f.Look.Font != "":
		set = standard(f.Look.Font)
	}
	w, h := f.Rect.W(), f.Rect.H()
	if f.Look.Turn%180 != 0 {
		w, h = h, w
	}
	size = f.Look.Size
	switch {
	case f.Comb > 0:
		return len([]rune(text)) <= f.Comb, math.Min(maxAuto, w/float64(f.Comb)/0.75)
	case f.Multiline:
		fits := func(size float64) bool {
			return float64(len(Wrap(text, (w-2*pad)/size, set)))*size*lineStep <= h-2*pad+0.5
		}
		if size > 0 {
			return fits(size), size
		}
		for size = maxAuto; size > minAuto && !fits(size); size -= 0.5 {
		}
		return fits(size), size
	}
	width := set.Width(strings.Join(strings.Fields(text), " "))
	if size == 0 {
		size = math.Min(maxAuto, (h-1)/(ascent+descent))
		if width*size > w-2*pad {
			size = (w - 2*pad) / width
		}
		return size >= minAuto, math.Max(size, minAuto)
	}
	return width*size <= w-2*pad, size
}
