package scan

// Part is a connected piece of ink (8-neighbourhood): its box, X1 and Y1 beyond the
// last pixel, and its pixels.
type Part struct {
	X0, Y0, X1, Y1 int
	Area           int
}

// W and H are the size of the box.
func (p Part) W() int { return p.X1 - p.X0 }

// H is the height of the box.
func (p Part) H() int { return p.Y1 - p.Y0 }

// run is a row of ink pixels from x0 to before x1.
type run struct{ y, x0, x1 int32 }

// Labels are the connected pieces of a picture, and to which each run of ink belongs.
type Labels struct {
	Parts []Part
	H     int // height of the picture
	runs  []run
	of    []int32 // the part of each run
}

// Connect finds the connected pieces of ink, by joining runs that touch.
func (k *Ink) Connect() *Labels {
	var runs []run
	starts := make([]int, k.H+1)
	for y := range k.H {
		starts[y] = len(runs)
		row := k.Pix[y*k.W : (y+1)*k.W]
		for x := next(row, 0); x < k.W; x = next(row, x) {
			x0 := x
			for x < k.W && row[x] == 1 {
				x++
			}
			runs = append(runs, run{int32(y), int32(x0), int32(x)})
		}
	}
	starts[k.H] = len(runs)
	parent := make([]int32, len(runs))
	for i := range parent {
		parent[i] = int32(i)
	}
	find := func(i int32) int32 {
		for parent[i] != i {
			parent[i] = parent[parent[i]]
			i = parent[i]
		}
		return i
	}
	for y := 1; y < k.H; y++ {
		i, j := starts[y-1], starts[y]
		for i < starts[y] && j < starts[y+1] {
			a, b := runs[i], runs[j]
			if a.x0 <= b.x1 && b.x0 <= a.x1 { // corners touch too
				ra, rb := find(int32(i)), find(int32(j))
				if ra != rb {
					parent[max(ra, rb)] = min(ra, rb)
				}
			}
			if a.x1 < b.x1 {
				i++
			} else {
				j++
			}
		}
	}
	l := &Labels{H: k.H, runs: runs, of: make([]int32, len(runs))}
	number := make([]int32, len(runs))
	for i, r := range runs {
		root := find(int32(i))
		if root == int32(i) {
			number[i] = int32(len(l.Parts))
			l.Parts = append(l.Parts, Part{int(r.x0), int(r.y), int(r.x1), int(r.y) + 1, 0})
		}
		n := number[root]
		l.of[i] = n
		p := &l.Parts[n]
		p.X0, p.X1 = min(p.X0, int(r.x0)), max(p.X1, int(r.x1))
		p.Y1 = max(p.Y1, int(r.y)+1)
		p.Area += int(r.x1 - r.x0)
	}
	return l
}

// letters are the pieces that have the size of type: neither specks nor lines nor
// pictures. The size is taken from the pieces themselves.
func (l *Labels) letters() []Part {
	var heights []int
	least := max(3, l.H/400) // dots and specks are more than letters on some forms
	for _, p := range l.Parts {
		if p.W() >= 2 && p.H() >= least && p.H() <= 120 && p.W() <= 4*p.H() && p.H() <= 6*p.W() {
			heights = append(heights, p.H())
		}
	}
	if len(heights) == 0 {
		return nil
	}
	typical := upperMedian(heights)
	var out []Part
	for _, p := range l.Parts {
		long, short := max(p.W(), p.H()), min(p.W(), p.H())
		if long >= typical/2 && long <= 3*typical && short >= max(1, typical/6) && p.Area*9 >= p.W()*p.H() {
			out = append(out, p)
		}
	}
	return out
}

// upperMedian is the median of the taller half, where specks and dots are few.
func upperMedian(v []int) int {
	count := map[int]int{}
	most := 0
	for _, x := range v {
		count[x]++
		most = max(most, x)
	}
	total, seen := len(v), 0
	for x := most; x >= 0; x-- {
		if seen += count[x]; seen*3 >= total {
			return x
		}
	}
	return most
}
