package simulate

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"math"
	"math/rand/v2"

	"golang.org/x/image/draw"
	"golang.org/x/image/math/f64"

	"zealousmargin.example/internal/scan"
)

// Faults are what goes wrong on the way from paper to picture.
type Faults struct {
	Skew     float64 // degrees clockwise
	Quarters int     // quarters of a full turn clockwise
	Specks   int     // how many, of a twentieth to a quarter of a millimetre
	Light    float64 // how much darker the darkest corner is, 0 to 1
	Grey     float64 // how much darker the paper is than white, 0 to 1
	Blur     int     // radius in pixels
	JPEG     int     // quality 1 to 100; 0 is none
	OneBit   bool    // black and white only
	Noise    float64 // of single pixels, in steps of lightness
	Seed     uint64
}

// Scan gives a picture the faults, at a resolution in dots per inch.
func Scan(img image.Image, dpi float64, f Faults) image.Image {
	rng := rand.New(rand.NewPCG(f.Seed, 77))
	p := copyOf(img)
	if f.Skew != 0 {
		p = rotate(p, f.Skew)
	}
	if f.Blur > 0 {
		p = blur(p, f.Blur)
	}
	darken(p, f, rng)
	specks(p, f.Specks, dpi, rng)
	out := scan.Quarters(p, f.Quarters)
	if f.JPEG > 0 {
		out = throughJPEG(out, f.JPEG)
	}
	if f.OneBit {
		out = oneBit(out)
	}
	return out
}

func copyOf(img image.Image) *image.RGBA {
	b := img.Bounds()
	p := image.NewRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	if of, ok := img.(interface{ Opaque() bool }); ok && of.Opaque() {
		draw.Draw(p, p.Rect, img, b.Min, draw.Src)
		return p
	}
	draw.Draw(p, p.Rect, image.White, image.Point{}, draw.Src)
	draw.Draw(p, p.Rect, img, b.Min, draw.Over)
	return p
}

func rotate(p *image.RGBA, deg float64) *image.RGBA {
	out := image.NewRGBA(p.Rect)
	draw.Draw(out, out.Rect, image.White, image.Point{}, draw.Src)
	sin, cos := math.Sincos(deg * math.Pi / 180)
	cx, cy := float64(p.Rect.Dx())/2, float64(p.Rect.Dy())/2
	m := f64.Aff3{cos, -sin, cx - cos*cx + sin*cy, sin, cos, cy - sin*cx - cos*cy}
	draw.ApproxBiLinear.Transform(out, m, p, p.Rect, draw.Over, nil)
	return out
}

// blur is a box filter, applied twice.
func blur(p *image.RGBA, r int) *image.RGBA {
	for range 2 {
		p = down(along(p, r), r)
	}
	return p
}

// means are what sums of so many bytes come to: to divide each time takes three times as long.
func means(count int) []uint8 {
	out := make([]uint8, 255*count+1)
	for sum := range out {
		out[sum] = uint8(sum / count)
	}
	return out
}

// along takes the mean of each pixel and the r pixels on both sides of it in its row.
func along(p *image.RGBA, r int) *image.RGBA {
	out := image.NewRGBA(p.Rect)
	w := p.Rect.Dx()
	of := make([][]uint8, 2*r+2)
	for n := 1; n < len(of); n++ {
		of[n] = means(n)
	}
	for y := range p.Rect.Dy() {
		in, to := p.Pix[y*p.Stride:][:4*w], out.Pix[y*out.Stride:][:4*w]
		for c := range 4 {
			sum, count := 0, 0
			for x := -r; x < w; x++ {
				if x+r < w {
					sum += int(in[4*(x+r)+c])
					count++
				}
				if x-r-1 >= 0 {
					sum -= int(in[4*(x-r-1)+c])
					count--
				}
				if x >= 0 {
					to[4*x+c] = of[count][sum]
				}
			}
		}
	}
	return out
}

// down does so in its column: row by row, since a column lies all over the memory.
func down(p *image.RGBA, r int) *image.RGBA {
	out := image.NewRGBA(p.Rect)
	h, n := p.Rect.Dy(), 4*p.Rect.Dx()
	sums := make([]int, n)
	row := func(y int) []uint8 { return p.Pix[y*p.Stride:][:n] }
	count := 0
	var of []uint8
	for y := -r; y < h; y++ {
		was := count
		if y+r < h {
			for i, v := range row(y + r) {
				sums[i] += int(v)
			}
			count++
		}
		if y-r-1 >= 0 {
			for i, v := range row(y - r - 1) {
				sums[i] -= int(v)
			}
			count--
		}
		if y < 0 {
			continue
		}
		if of == nil || count != was {
			of = means(count)
		}
		to := out.Pix[y*out.Stride:][:n]
		for i, v := range sums {
			to[i] = of[v]
		}
	}
	return out
}

func darken(p *image.RGBA, f Faults, rng *rand.Rand) {
	if f.Light == 0 && f.Grey == 0 && f.Noise == 0 {
		return
	}
	w, h := p.Rect.Dx(), p.Rect.Dy()
	across := make([]float64, w)
	for x := range across {
		fx := float64(x) / float64(w)
		across[x] = 0.6 * fx * fx
	}
	for y := range h {
		row, low := p.Pix[y*p.Stride:][:4*w], 0.4*(float64(y)/float64(h))
		for x, a := range across {
			k, px := (1-f.Grey)*(1-f.Light*(a+low)), row[4*x:4*x+3:4*x+3]
			if f.Noise == 0 {
				px[0], px[1], px[2] = uint8(float64(px[0])*k), uint8(float64(px[1])*k), uint8(float64(px[2])*k)
				continue
			}
			n := rng.NormFloat64() * f.Noise
			for c := range px {
				px[c] = uint8(math.Max(0, math.Min(255, float64(px[c])*k+n)))
			}
		}
	}
}

func specks(p *image.RGBA, n int, dpi float64, rng *rand.Rand) {
	for range n {
		r := dpi / 25.4 * (0.02 + 0.1*rng.Float64())
		cx, cy := rng.Float64()*float64(p.Rect.Dx()), rng.Float64()*float64(p.Rect.Dy())
		for y := int(cy - r); y <= int(cy+r); y++ {
			for x := int(cx - r); x <= int(cx+r); x++ {
				if math.Hypot(float64(x)-cx, float64(y)-cy) <= math.Max(r, 0.6) {
					p.SetRGBA(x, y, color.RGBA{50, 46, 44, 255})
				}
			}
		}
	}
}

func throughJPEG(img image.Image, quality int) image.Image {
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, &jpeg.Options{Quality: quality}); err != nil {
		return img
	}
	out, err := jpeg.Decode(&b)
	if err != nil {
		return img
	}
	return out
}

func oneBit(img image.Image) image.Image {
	g := scan.Gray(img)
	for i, v := range g.Pix {
		if v < 150 {
			g.Pix[i] = 0
		} else {
			g.Pix[i] = 255
		}
	}
	return g
}

// Photograph lays a page on a dark table and looks at it from the side: tilt is how
// far, 0 to 0.3, and lean the turn in degrees. It gives the picture and where the
// corners of the sheet are in it.
func Photograph(img image.Image, tilt, lean float64, seed uint64) (image.Image, scan.Quad) {
	rng := rand.New(rand.NewPCG(seed, 5))
	src := copyOf(img)
	w, h := float64(src.Rect.Dx()), float64(src.Rect.Dy())
	ow, oh := int(w*1.25), int(h*1.25)
	out := image.NewRGBA(image.Rect(0, 0, ow, oh))
	for y := range oh {
		for x := range ow {
			v := uint8(54 + 8*math.Sin(float64(x)/37+math.Sin(float64(y)/91)*3) + float64(rng.IntN(6)))
			out.SetRGBA(x, y, color.RGBA{v + 14, v, v - 12, 255})
		}
	}
	sin, cos := math.Sincos(lean * math.Pi / 180)
	at := func(x, y float64) scan.Corner { // x, y from -0.5 to 0.5 of the sheet
		px, py := x*w, y*h
		px, py = px*cos-py*sin, px*sin+py*cos
		d := 1 + tilt*(y+0.3*x)
		return scan.Corner{X: px/d + float64(ow)/2, Y: py/d + float64(oh)/2}
	}
	q := scan.Quad{at(-0.5, -0.5), at(0.5, -0.5), at(0.5, 0.5), at(-0.5, 0.5)}
	// Draw by walking the sheet in steps finer than a pixel of the photograph.
	for y := 0.0; y < h; y += 0.5 {
		for x := 0.0; x < w; x += 0.5 {
			c := at(x/w-0.5, y/h-0.5)
			px, py := int(c.X), int(c.Y)
			if px < 0 || py < 0 || px >= ow || py >= oh {
				continue
			}
			k := 0.92 - 0.25*float64(px)/float64(ow)*float64(py)/float64(oh)
			s := src.Pix[int(y)*src.Stride+4*int(x):]
			out.SetRGBA(px, py, color.RGBA{uint8(float64(s[0]) * k), uint8(float64(s[1]) * k), uint8(float64(s[2]) * k), 255})
		}
	}
	return out, q
}
