package pictures

import (
	"fmt"
	"hash/fnv"
	"image"
	"math"
)

// Scene is a kind of picture.
type Scene string

// The scenes.
const (
	Chart   Scene = "chart"   // a star chart
	Dome    Scene = "dome"    // the dome on its hill
	Meteors Scene = "meteors" // trails above a horizon
	Moon    Scene = "moon"    // the Moon in one of its phases
	Phases  Scene = "phases"  // a row of phases
	Bench   Scene = "bench"   // a drawing of how light goes through an instrument
	Planet  Scene = "planet"  // a planet with its moons
	Lane    Scene = "lane"    // a footpath at night
)

// Picture draws a scene for something by its name, and says what it shows.
func Picture(scene Scene, name string) (image.Image, string) {
	h := fnv.New64a()
	h.Write([]byte(scene))
	h.Write([]byte(name))
	c := newCanvas(h.Sum64())
	var alt string
	switch scene {
	case Chart:
		alt = c.chart()
	case Meteors:
		alt = c.meteors()
	case Moon:
		alt = c.moonlit()
	case Phases:
		alt = c.phases()
	case Bench:
		alt = c.bench()
	case Planet:
		alt = c.planet()
	case Lane:
		alt = c.lane()
	default:
		alt = c.dome()
	}
	return c.image(), alt
}

var nights = [][]rgb{
	{hex(0x070b1c), hex(0x12203f), hex(0x274060)},
	{hex(0x0a0a18), hex(0x1a1838), hex(0x45325e)},
	{hex(0x04101a), hex(0x0c2a36), hex(0x1d4a50)},
	{hex(0x0b1026), hex(0x2a2f5c), hex(0xa0586a), hex(0xe9a66c)},
	{hex(0x10203c), hex(0x3b5a80), hex(0x9db4b8), hex(0xf0d9a8)},
	{hex(0x050814), hex(0x0f1a33), hex(0x1a3350)},
}

func (c *canvas) night() {
	stops := nights[c.chance.IntN(len(nights))]
	c.sky(stops...)
}

// chart draws stars on a net of circles, and a figure between the brightest.
func (c *canvas) chart() string {
	grounds := [][2]rgb{{hex(0x0e1a33), hex(0x16284a)}, {hex(0xf3ecd9), hex(0xe8dfc6)}, {hex(0x122a2c), hex(0x1a3b3a)},
		{hex(0x1d1630), hex(0x2b2145)}}
	which := c.chance.IntN(len(grounds))
	paper := which == 1
	c.sky(grounds[which][0], grounds[which][1])
	ink, net := hex(0xf6efdc), hex(0x7d93bd)
	if paper {
		ink, net = hex(0x1b2440), hex(0xa89f86)
	}
	px, py := c.between(-200, Width+200), c.between(-500, -120) // the pole
	for r := 140.0; r < 1500; r += 130 {
		c.ring(px, py, r, 1.2, net, 0.45)
	}
	for i := range 24 {
		a := 2 * math.Pi * float64(i) / 24
		c.line(px, py, px+1600*math.Cos(a), py+1600*math.Sin(a), 1.1, net, steady(0.35))
	}
	for range 170 {
		x, y := c.between(0, Width), c.between(0, Height)
		c.disc(x, y, 0.6+1.6*math.Pow(c.chance.Float64(), 3), ink, 0.8)
	}
	n := 5 + c.chance.IntN(5)
	type star struct{ x, y, r float64 }
	figure := []star{{c.between(120, 260), c.between(150, 400), c.between(4, 8)}}
	heading := c.between(-0.6, 0.6)
	for len(figure) < n {
		last := figure[len(figure)-1]
		heading += c.between(-0.9, 0.9)
		step := c.between(70, 135)
		next := star{last.x + step*math.Cos(heading), last.y + step*math.Sin(heading), c.between(3.5, 8.5)}
		if next.x > Width-70 || next.x < 70 || next.y < 60 || next.y > Height-60 {
			heading += math.Pi / 2
			next.x, next.y = min(Width-70, max(70, next.x)), min(Height-60, max(60, next.y))
		}
		figure = append(figure, next)
	}
	for i := 1; i < len(figure); i++ {
		c.line(figure[i-1].x, figure[i-1].y, figure[i].x, figure[i].y, 1.8, ink, steady(0.55))
	}
	if n > 6 {
		c.line(figure[n-1].x, figure[n-1].y, figure[n/2].x, figure[n/2].y, 1.8, ink, steady(0.55))
	}
	for _, s := range figure {
		c.disc(s.x, s.y, s.r+3, grounds[which][0], 1)
		c.disc(s.x, s.y, s.r, ink, 1)
	}
	return fmt.Sprintf("Drawing of a star chart with a figure of %d stars joined by lines", n)
}

// dome draws the observatory on its hill.
func (c *canvas) dome() string {
	c.night()
	hill := c.waves(c.between(410, 460), c.between(14, 34))
	back := c.waves(c.between(370, 400), 18)
	c.stars(420, back)
	moon := c.chance.IntN(3) == 0
	if moon {
		c.moonAt(c.between(90, 300), c.between(80, 180), c.between(26, 44), c.between(0.1, 0.9))
	}
	far, near := hex(0x16202c), hex(0x0a0f16)
	c.below(back, func(int, int) rgb { return far })
	x := c.between(280, 600)
	r := c.between(78, 120)
	base := hill(x) + 12
	wall := r * 0.7
	body, shade := hex(0xd9d6cc), hex(0x51596b)
	lit := c.between(-1, 1)
	c.below(func(at float64) float64 {
		if math.Abs(at-x) > r*1.04 {
			return Height + 1
		}
		return base - wall
	}, func(at, _ int) rgb { return mix(shade, body, 0.35+0.3*lit*(float64(at)-x)/r) })
	over(x-r-2, base-wall-r-2, x+r+2, base-wall+1, func(px, py int) {
		dx, dy := float64(px)-x, float64(py)-(base-wall)
		if dy > 0 {
			return
		}
		c.put(px, py, mix(shade, body, 0.45+0.45*(lit*dx/r-dy/r*0.6)), min(1, r-math.Hypot(dx, dy)+0.5))
	})
	slit := c.between(-0.5, 0.5)
	c.line(x+r*slit*0.25, base-wall-4, x+r*slit, base-wall-r*math.Sqrt(1-slit*slit*0.9), r*0.2, hex(0x0a0d14),
		steady(1))
	if c.chance.IntN(2) == 0 {
		c.glow(x+r*slit, base-wall-r*0.6, r*0.5, hex(0xa02020), 0.35) // the red lamp within
	}
	c.line(x-r*1.08, base-wall, x+r*1.08, base-wall, 7, shade, steady(0.9))
	c.below(hill, func(_, y int) rgb { return mix(near, hex(0x18222a), float64(Height-y)/300) })
	if moon {
		return "Drawing of the dome on its hill under a moonlit sky full of stars"
	}
	return "Drawing of the dome on its hill, its shutter open to the stars"
}

// meteors draws trails that come from one place in the sky.
func (c *canvas) meteors() string {
	c.night()
	hill := c.waves(c.between(450, 500), c.between(8, 26))
	c.stars(520, hill)
	rx, ry := c.between(120, 720), c.between(-60, 160)
	n := 1 + c.chance.IntN(6)
	for range n {
		a := c.between(0.15, math.Pi-0.15)
		from := c.between(60, 240)
		long := c.between(70, 250)
		x0, y0 := rx+from*math.Cos(a), ry+from*math.Sin(a)
		x1, y1 := rx+(from+long)*math.Cos(a), ry+(from+long)*math.Sin(a)
		col := []rgb{hex(0xffffff), hex(0xd8f5e0), hex(0xffe6b8)}[c.chance.IntN(3)]
		c.line(x0, y0, x1, y1, c.between(2, 4), col, func(t float64) float64 { return 0.95 * t * t })
		c.glow(x1, y1, 5, col, 0.8)
	}
	c.trees(hill)
	if n == 1 {
		return "Drawing of a single bright meteor above a dark horizon"
	}
	return fmt.Sprintf("Drawing of %d meteor trails above a dark horizon", n)
}

// trees stands firs along a hill.
func (c *canvas) trees(hill func(float64) float64) {
	dark := hex(0x05080d)
	c.below(hill, func(int, int) rgb { return dark })
	for range 26 {
		x := c.between(0, Width)
		tall := c.between(24, 92)
		foot := hill(x) + 6
		c.below(func(at float64) float64 {
			d := math.Abs(at-x) / (tall * 0.22)
			if d > 1 {
				return Height + 1
			}
			return foot - tall*(1-d) - 3*math.Sin(at*1.7)
		}, func(_, y int) rgb {
			return dark
		})
	}
}

// moonAt draws the Moon; lit is how much of it is, from 0 to 1, waxing.
func (c *canvas) moonAt(cx, cy, r, lit float64) {
	c.glow(cx, cy, r*1.5, hex(0xbfc9d8), 0.10+0.12*lit)
	bright, dark := hex(0xf1ecdd), hex(0x1c2233)
	type crater struct{ x, y, r float64 }
	var seas []crater
	for range 14 {
		a, d := c.between(0, 2*math.Pi), c.between(0, 0.85)
		seas = append(seas, crater{d * math.Cos(a), d * math.Sin(a), c.between(0.06, 0.26)})
	}
	over(cx-r-1, cy-r-1, cx+r+1, cy+r+1, func(x, y int) {
		u, v := (float64(x)-cx)/r, (float64(y)-cy)/r
		d := math.Hypot(u, v)
		if d > 1+1/r {
			return
		}
		edge := math.Sqrt(max(0, 1-v*v)) * (1 - 2*lit) // the terminator
		surface := bright
		for _, s := range seas {
			if e := math.Hypot(u-s.x, v-s.y) / s.r; e < 1 {
				surface = mix(surface, hex(0xb5b2a8), 0.5*(1-e*e))
			}
		}
		share := min(1, max(0, (u-edge)*r/6+0.5))
		c.put(x, y, mix(dark, surface, share), min(1, (1-d)*r+0.5))
	})
}

func (c *canvas) moonlit() string {
	c.sky(hex(0x05070f), hex(0x0d1424))
	c.stars(260, everywhere)
	lit := c.between(0.06, 1)
	c.moonAt(c.between(330, 510), c.between(250, 310), c.between(150, 205), lit)
	switch {
	case lit < 0.35:
		return "Drawing of a crescent Moon"
	case lit < 0.65:
		return "Drawing of the half Moon, shadows along its edge of light"
	}
	return "Drawing of a nearly full Moon"
}

func (c *canvas) phases() string {
	c.night()
	c.stars(200, everywhere)
	n := 5 + c.chance.IntN(4)
	r := Width / float64(n) * 0.36
	rise := c.between(-60, 60)
	for i := range n {
		t := (float64(i) + 0.5) / float64(n)
		c.moonAt(t*Width, Height/2+rise*math.Sin(math.Pi*t)*2-rise, r, (float64(i)+0.6)/float64(n))
	}
	return fmt.Sprintf("Drawing of %d phases of the Moon side by side", n)
}

// bench draws light's way through lenses or to a mirror, on squared paper.
func (c *canvas) bench() string {
	grounds := []rgb{hex(0x1f4468), hex(0xf4f0e4), hex(0x24413c), hex(0x33313a)}
	which := c.chance.IntN(len(grounds))
	ground := grounds[which]
	ink, faint := hex(0xeaf1f6), 0.13
	if which == 1 {
		ink, faint = hex(0x243047), 0.16
	}
	c.sky(ground, mix(ground, hex(0x000000), 0.12))
	for x := 0.0; x < Width; x += 28 {
		c.line(x, 0, x, Height, 1, ink, steady(faint))
	}
	for y := 0.0; y < Height; y += 28 {
		c.line(0, y, Width, y, 1, ink, steady(faint))
	}
	axis := Height/2 + c.between(-40, 40)
	c.line(30, axis, Width-30, axis, 1.2, ink, func(t float64) float64 { // dash and dot
		if math.Mod(t*40, 1) < 0.7 {
			return 0.6
		}
		return 0
	})
	ray := hex(0xf2b632)
	if c.chance.IntN(2) == 0 {
		c.mirror(axis, ink, ray)
		return "Technical drawing of parallel light gathered by a curved mirror"
	}
	n := c.lenses(axis, ink, ray)
	return fmt.Sprintf("Technical drawing of light passing through %d lenses", n)
}

func (c *canvas) mirror(axis float64, ink, ray rgb) {
	focus := c.between(300, 460)
	back := c.between(640, 740)
	half := c.between(130, 200)
	at := func(h float64) float64 { return back - h*h/(4*focus) }
	for h := -half; h < half; h += 4 {
		c.line(at(h), axis+h, at(h+4), axis+h+4, 4, ink, steady(1))
		if int(h/4)%3 == 0 {
			c.line(at(h)+4, axis+h, at(h)+14, axis+h+9, 1.4, ink, steady(0.7))
		}
	}
	rays := 3 + c.chance.IntN(4)
	for i := range rays {
		h := half * 0.9 * (2*float64(i)/float64(rays-1) - 1)
		c.line(20, axis+h, at(h), axis+h, 1.6, ray, steady(0.85))
		c.line(at(h), axis+h, back-focus, axis, 1.6, ray, steady(0.85))
	}
	c.disc(back-focus, axis, 5, ink, 1)
}

func (c *canvas) lenses(axis float64, ink, ray rgb) int {
	n := 2 + c.chance.IntN(3)
	x, height, slope := 40.0, c.between(90, 140), 0.0
	tops := []float64{1, 0.5, -0.5, -1}
	places := []float64{}
	for i := range n {
		places = append(places, 150+float64(i)*(Width-260)/float64(n)+c.between(-20, 20))
	}
	for _, lens := range places {
		next := height + slope*(lens-x)
		for _, top := range tops {
			c.line(x, axis+top*height, lens, axis+top*next, 1.6, ray, steady(0.85))
		}
		half := max(34, math.Abs(next)+18)
		bulge := c.between(14, 30)
		for h := -half; h < half; h += 3 {
			w := bulge * (1 - h*h/(half*half))
			w2 := bulge * (1 - (h+3)*(h+3)/(half*half))
			c.line(lens-w, axis+h, lens-w2, axis+h+3, 2.4, ink, steady(0.95))
			c.line(lens+w, axis+h, lens+w2, axis+h+3, 2.4, ink, steady(0.95))
		}
		x, height = lens, next
		slope -= next / c.between(190, 330)
	}
	end := height + slope*(Width-20-x)
	for _, top := range tops {
		c.line(x, axis+top*height, Width-20, axis+top*end, 1.6, ray, steady(0.85))
	}
	return n
}

func (c *canvas) planet() string {
	c.sky(hex(0x04050b), hex(0x0a0e1a))
	c.stars(300, everywhere)
	bases := [][2]rgb{{hex(0xd9b48a), hex(0x8f5b3c)}, {hex(0xe8d6a6), hex(0xb39760)}, {hex(0xa9c9d6), hex(0x5f8ba6)},
		{hex(0xcf7a55), hex(0x8a412c)}}
	which := c.chance.IntN(len(bases))
	cx, cy, r := c.between(340, 500), c.between(240, 320), c.between(95, 150)
	ringed := which == 1 || c.chance.IntN(4) == 0
	tilt := c.between(0.14, 0.4)
	rings := func(front bool) {
		if !ringed {
			return
		}
		for _, band := range []struct{ from, to, share float64 }{{1.35, 1.62, 0.75}, {1.68, 2.05, 0.6},
			{2.12, 2.22, 0.35}} {
			over(cx-2.3*r, cy-2.3*r*tilt, cx+2.3*r, cy+2.3*r*tilt, func(x, y int) {
				if (float64(y) > cy) != front {
					return
				}
				d := math.Hypot((float64(x)-cx)/r, (float64(y)-cy)/(r*tilt))
				if d >= band.from && d <= band.to {
					c.put(x, y, hex(0xe6d8b8), band.share)
				}
			})
		}
	}
	rings(false)
	bands := c.between(7, 13)
	wobble := c.between(0, 6)
	over(cx-r-1, cy-r-1, cx+r+1, cy+r+1, func(x, y int) {
		u, v := (float64(x)-cx)/r, (float64(y)-cy)/r
		d := math.Hypot(u, v)
		if d > 1+1/r {
			return
		}
		col := mix(bases[which][0], bases[which][1], 0.5+0.5*math.Sin(v*bands*math.Pi+0.5*math.Sin(u*4+wobble)))
		light := max(0.06, math.Sqrt(max(0, 1-d*d))*0.85+u*-0.35)
		c.put(x, y, mix(rgb{}, col, min(1, light)), min(1, (1-d)*r+0.5))
	})
	rings(true)
	moons := 1 + c.chance.IntN(4)
	for range moons {
		side := float64(c.chance.IntN(2)*2 - 1)
		c.glow(cx+side*r*c.between(1.5, 2.9), cy+c.between(-14, 14), 2.4, hex(0xffffff), 1)
	}
	if ringed {
		return fmt.Sprintf("Drawing of a ringed planet with %d of its moons", moons)
	}
	return fmt.Sprintf("Drawing of a banded planet with %d of its moons", moons)
}

// lane draws a footpath between hedges, with a shaded lamp or none.
func (c *canvas) lane() string {
	c.night()
	horizon := c.between(300, 350)
	hill := c.waves(horizon, 12)
	c.stars(480, hill)
	c.below(hill, func(int, int) rgb { return hex(0x0b1214) })
	vx := c.between(300, 560)
	for y := int(horizon) - 4; y < Height; y++ {
		t := (float64(y) - horizon + 4) / (Height - horizon)
		half := 5 + 210*t
		mid := vx + 40*math.Sin(t*3.1+vx)*t
		for x := int(mid - half); x <= int(mid+half); x++ {
			c.put(x, y, mix(hex(0x37382f), hex(0x6b6654), 1-t), 0.9*min(1, half-math.Abs(float64(x)-mid)+0.5))
		}
	}
	lit := c.chance.IntN(2) == 0
	if lit {
		x := vx + c.between(90, 200)
		top := horizon - c.between(30, 70)
		over(x-130, top, x+130, Height, func(px, py int) {
			d := (float64(py) - top)
			if w := d * 0.45; math.Abs(float64(px)-x) < w && d > 0 {
				c.light(px, py, hex(0xffb45a), 0.20*(1-math.Abs(float64(px)-x)/w)*math.Exp(-d/170))
			}
		})
		c.line(x, top, x, top+190, 5, hex(0x07090b), steady(1))
		c.line(x-17, top, x+17, top, 6, hex(0x07090b), steady(1))
		c.glow(x, top+6, 6, hex(0xffd9a0), 0.9)
	}
	for range 46 {
		x := c.between(-20, Width+20)
		if math.Abs(x-vx) < 150 {
			continue
		}
		c.disc(x, c.between(horizon+30, Height), c.between(20, 58),
			mix(hex(0x060a0a), hex(0x12201a), c.chance.Float64()), 0.95)
	}
	if lit {
		return "Drawing of a footpath at night under the stars, with one shaded lamp"
	}
	return "Drawing of an unlit footpath between hedges under the stars"
}
