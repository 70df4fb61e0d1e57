// Package pictures draws the featured images of the demo world: star charts, domes, meteor
// trails, moon phases and the like, all of them from a seed and nothing else. The same
// seed gives the same picture on every machine.
package pictures

import (
	"image"
	"math"
	"math/rand/v2"
)

// Width and Height are the size of every picture, in pixels.
const (
	Width  = 840 / shrunk
	Height = 560 / shrunk
)

// rgb is a colour in light, each part from 0 to 1.
type rgb [3]float32

func hex(code uint32) rgb {
	return rgb{float32(code>>16&255) / 255, float32(code>>8&255) / 255, float32(code&255) / 255}
}

func mix(a, b rgb, share float64) rgb {
	t := float32(min(1, max(0, share)))
	return rgb{a[0] + (b[0]-a[0])*t, a[1] + (b[1]-a[1])*t, a[2] + (b[2]-a[2])*t}
}

// canvas is what is drawn on; it has a source of chance of its own.
type canvas struct {
	pix    []rgb
	chance *rand.Rand
}

func newCanvas(seed uint64) *canvas {
	return &canvas{make([]rgb, Width*Height), rand.New(rand.NewPCG(seed, 0x646f6d65))}
}

// between draws a number.
func (c *canvas) between(from, to float64) float64 { return from + c.chance.Float64()*(to-from) }

func (c *canvas) put(x, y int, col rgb, share float64) {
	if x < 0 || y < 0 || x >= Width || y >= Height || share <= 0 {
		return
	}
	at := &c.pix[y*Width+x]
	*at = mix(*at, col, share)
}

// light adds light to a place.
func (c *canvas) light(x, y int, col rgb, share float64) {
	if x < 0 || y < 0 || x >= Width || y >= Height {
		return
	}
	at := &c.pix[y*Width+x]
	for i := range at {
		at[i] += col[i] * float32(share)
	}
}

// sky fills the canvas from top to bottom, with a little noise against banding.
func (c *canvas) sky(stops ...rgb) {
	for y := range Height {
		at := float64(y) / (Height - 1) * float64(len(stops)-1)
		i := min(int(at), len(stops)-2)
		col := mix(stops[i], stops[i+1], at-float64(i))
		for x := range Width {
			n := (c.chance.Float32() - 0.5) * 0.012
			c.pix[y*Width+x] = rgb{col[0] + n, col[1] + n, col[2] + n}
		}
	}
}

// over calls for every place of a box.
func over(x0, y0, x1, y1 float64, each func(x, y int)) {
	for y := max(0, int(y0)); y <= min(Height-1, int(y1)+1); y++ {
		for x := max(0, int(x0)); x <= min(Width-1, int(x1)+1); x++ {
			each(x, y)
		}
	}
}

// disc fills a circle.
func (c *canvas) disc(cx, cy, r float64, col rgb, share float64) {
	over(cx-r-1, cy-r-1, cx+r+1, cy+r+1, func(x, y int) {
		c.put(x, y, col, share*min(1, r-math.Hypot(float64(x)-cx, float64(y)-cy)+0.5))
	})
}

// ring draws a circle.
func (c *canvas) ring(cx, cy, r, width float64, col rgb, share float64) {
	for y := max(0, int(cy-r-width)); y <= min(Height-1, int(cy+r+width)+1); y++ {
		dy := float64(y) - cy
		outer := math.Sqrt(max(0, (r+width)*(r+width)-dy*dy))
		inner := math.Sqrt(max(0, (r-width)*(r-width)-dy*dy))
		draw := func(from, to float64) {
			for x := max(0, int(from)); x <= min(Width-1, int(to)+1); x++ {
				d := math.Abs(math.Hypot(float64(x)-cx, dy) - r)
				c.put(x, y, col, share*min(1, width/2-d+0.5))
			}
		}
		draw(cx-outer, cx-inner)
		draw(max(cx+inner, cx-inner+1), cx+outer)
	}
}

// glow adds a soft light.
func (c *canvas) glow(cx, cy, r float64, col rgb, strength float64) {
	over(cx-3*r, cy-3*r, cx+3*r, cy+3*r, func(x, y int) {
		d2 := ((float64(x)-cx)*(float64(x)-cx) + (float64(y)-cy)*(float64(y)-cy)) / (r * r)
		c.light(x, y, col, strength*math.Exp(-d2))
	})
}

// line draws a line; fade says how strong it is along its way, from 0 to 1.
func (c *canvas) line(x0, y0, x1, y1, width float64, col rgb, fade func(along float64) float64) {
	dx, dy := x1-x0, y1-y0
	long := dx*dx + dy*dy
	if long == 0 {
		return
	}
	dot := func(x, y int) {
		t := min(1, max(0, ((float64(x)-x0)*dx+(float64(y)-y0)*dy)/long))
		d := math.Hypot(float64(x)-x0-t*dx, float64(y)-y0-t*dy)
		c.put(x, y, col, fade(t)*min(1, width/2-d+0.5))
	}
	// Along its longer side, only what is near the line is looked at.
	reach := (width/2 + 1) * math.Sqrt2
	if math.Abs(dx) >= math.Abs(dy) {
		for x := max(0, int(min(x0, x1)-width)); x <= min(Width-1, int(max(x0, x1)+width)+1); x++ {
			mid := y0 + min(1, max(0, (float64(x)-x0)/dx))*dy
			for y := max(0, int(mid-reach)); y <= min(Height-1, int(mid+reach)+1); y++ {
				dot(x, y)
			}
		}
		return
	}
	for y := max(0, int(min(y0, y1)-width)); y <= min(Height-1, int(max(y0, y1)+width)+1); y++ {
		mid := x0 + min(1, max(0, (float64(y)-y0)/dy))*dx
		for x := max(0, int(mid-reach)); x <= min(Width-1, int(mid+reach)+1); x++ {
			dot(x, y)
		}
	}
}

func steady(share float64) func(float64) float64 { return func(float64) float64 { return share } }

// below fills what lies below a height.
func (c *canvas) below(height func(x float64) float64, col func(x, y int) rgb) {
	for x := range Width {
		h := height(float64(x))
		for y := max(0, int(h)); y < Height; y++ {
			c.put(x, y, col(x, y), min(1, float64(y)-h+0.5))
		}
	}
}

// waves is a gentle random height about a level.
func (c *canvas) waves(level, swing float64) func(float64) float64 {
	type wave struct{ long, phase, tall float64 }
	var all []wave
	for i := range 5 {
		all = append(all, wave{c.between(0.8, 1.6) * Width / math.Pow(1.9, float64(i)), c.between(0, 2*math.Pi),
			swing / math.Pow(1.9, float64(i))})
	}
	return func(x float64) float64 {
		y := level
		for _, w := range all {
			y += w.tall * math.Sin(2*math.Pi*x/w.long+w.phase)
		}
		return y
	}
}

// stars scatters stars above a height, few of them bright.
func (c *canvas) stars(n int, above func(x float64) float64) {
	tints := []rgb{hex(0xffffff), hex(0xcfe0ff), hex(0xfff0d0), hex(0xffdcc0)}
	for range n {
		x, y := c.between(0, Width), c.between(0, Height)
		if y > above(x)-6 {
			continue
		}
		bright := math.Pow(c.chance.Float64(), 5)
		tint := tints[c.chance.IntN(len(tints))]
		c.glow(x, y, 0.7+bright*1.5, tint, 0.35+bright*0.9)
		if bright > 0.6 {
			c.glow(x, y, 6, tint, 0.12)
		}
	}
}

func everywhere(float64) float64 { return Height + 10 }

// image is the canvas as a picture.
func (c *canvas) image() image.Image {
	p := image.NewNRGBA(image.Rect(0, 0, Width, Height))
	for i, col := range c.pix {
		for j, v := range col {
			p.Pix[4*i+j] = uint8(min(1, max(0, v))*255 + 0.5)
		}
		p.Pix[4*i+3] = 255
	}
	return p
}
