package measure

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"unicode"

	"github.com/mozillazg/go-unidecode"
	"golang.org/x/text/unicode/norm"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/measure/sheets"
)

// compareTruth holds the finds of a page to the truth. All finds are judged for the
// reliability table; those that would be placed count for the rest.
func compareTruth(finds []detect.Find, truth []sheets.Truth) tally {
	t := tally{pages: 1, wanted: len(truth)}
	close, loose := alike(finds, truth)
	all := match(finds, close, false)
	for i, f := range finds {
		_, right := all[i]
		tenth := min(9, int(f.Confidence*10))
		level := map[form.Level]int{form.Sure: 0, form.Likely: 1, form.Doubtful: 2}[form.LevelOf(f.Confidence)]
		t.sure[tenth][0]++
		t.atLeast[level][0]++
		if right {
			t.sure[tenth][1]++
			t.atLeast[level][1]++
		}
		if f.Confidence >= form.LikelyFrom {
			t.found++
		}
	}
	hits := match(finds, close, true)
	t.lenient = len(match(finds, loose, true))
	for i, k := range hits {
		f, w := finds[i], truth[k]
		t.hit++
		if f.Kind == w.Kind || slices.Contains(w.Kinds, f.Kind) {
			t.kind++
		}
		if meaningful(f.Name, w.Words) || w.Group != "" && meaningful(f.Name, w.Group) {
			t.named++
		}
		if w.Comb > 0 {
			t.combs++
			if f.Comb == w.Comb {
				t.comb++
			}
		}
		if !w.Unsaid && (w.Multiline || f.Multiline) {
			t.lines++
			if w.Multiline == f.Multiline {
				t.lined++
			}
		}
	}
	return t
}

// pair is a find that may be a field of the truth.
type pair struct {
	f, w int
	iou  float64
}

// alike are the pairs that lie in one place, and those that share at least a line and 70 % of the width.
func alike(finds []detect.Find, truth []sheets.Truth) (close, loose []pair) {
	for i, f := range finds {
		for k, w := range truth {
			v := f.Rect.IoU(w.Rect)
			if v >= MatchIoU || w.Near && sameBox(f, w) {
				close = append(close, pair{i, k, v})
			}
			if f.Rect.OverlapY(w.Rect) > 0 && f.Rect.OverlapX(w.Rect) >= 0.7*max(f.Rect.W(), w.Rect.W()) {
				loose = append(loose, pair{i, k, v + 0.01})
			}
		}
	}
	return close, loose
}

// match gives every find at most one field of the truth and the other way round, the closest first: the
// index of the field by that of the find. Placed leaves out finds that would only be shown.
func match(finds []detect.Find, ps []pair, placed bool) map[int]int {
	slices.SortStableFunc(ps, func(a, b pair) int { return cmp.Compare(b.iou, a.iou) })
	byFind, byTruth := map[int]int{}, map[int]bool{}
	for _, p := range ps {
		_, used := byFind[p.f]
		if used || byTruth[p.w] || placed && finds[p.f].Confidence < form.LikelyFrom {
			continue
		}
		byFind[p.f], byTruth[p.w] = p.w, true
	}
	return byFind
}

// sameBox tells whether a find is a box to tick in the place of one of the truth: their middles lie
// within two points, and their areas differ less than fourfold.
func sameBox(f detect.Find, w sheets.Truth) bool {
	tick := func(k form.Kind) bool { return k == form.CheckBox || k == form.Radio }
	a, b := f.Rect.Mid(), w.Rect.Mid()
	size := f.Rect.Area() / w.Rect.Area()
	return tick(f.Kind) && tick(w.Kind) && math.Hypot(a.X-b.X, a.Y-b.Y) <= 2 && size < 4 && size > 0.25
}

// meaningful tells whether a name is made of the words of the label: at least one of
// them, and at least half of the name's own words.
func meaningful(name, label string) bool {
	fold := func(s string) []string {
		var b strings.Builder
		latin := strings.NewReplacer("ß", "ss", "ø", "o", "ł", "l", "æ", "ae").Replace(strings.ToLower(s))
		if strings.ContainsFunc(latin, func(r rune) bool { return unicode.IsLetter(r) && !unicode.Is(unicode.Latin, r) }) {
			latin = strings.ToLower(unidecode.Unidecode(norm.NFD.String(latin)))
		}
		for _, r := range norm.NFD.String(latin) {
			switch {
			case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
				b.WriteRune(r)
			case unicode.Is(unicode.Mn, r):
			default:
				b.WriteByte(' ')
			}
		}
		return strings.Fields(b.String())
	}
	words := fold(label)
	own, right := 0, 0
	for _, n := range fold(name) {
		if strings.Trim(n, "0123456789") == "" {
			continue
		}
		own++
		if slices.Contains(words, n) {
			right++
		}
	}
	return right > 0 && 2*right >= own
}
