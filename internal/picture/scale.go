package picture

import (
	"image"

	"golang.org/x/image/draw"
)

// smoothMegabytes is how much memory the smooth way to scale may take; it grows with the
// height of the picture. Larger pictures are averaged row by row.
const smoothMegabytes = 48

// scaled makes a picture of RGBA in a size, for which the packages that write have fast
// ways.
func scaled(from image.Image, width, height int) *image.RGBA {
	b := from.Bounds()
	to := image.NewRGBA(image.Rect(0, 0, width, height))
	switch {
	case width == b.Dx() && height == b.Dy():
		draw.Draw(to, to.Bounds(), from, b.Min, draw.Src)
	case width*b.Dy()*32>>20 <= smoothMegabytes || width > b.Dx() || height > b.Dy():
		draw.CatmullRom.Scale(to, to.Bounds(), from, b, draw.Src, nil)
	default:
		average(to, from)
	}
	return to
}

// average fills a picture with the averages of the areas of a larger one. It holds one row
// of each.
func average(to *image.RGBA, from image.Image) {
	b := from.Bounds()
	w, h, dw, dh := b.Dx(), b.Dy(), to.Bounds().Dx(), to.Bounds().Dy()
	row := image.NewRGBA(image.Rect(0, 0, w, 1))
	narrow, sums := make([]float32, 4*dw), make([]float32, 4*dw)
	across := shares(w, dw)
	down := shares(h, dh)
	scale := float32(dw) / float32(w) * float32(dh) / float32(h)
	for y := range h {
		draw.Draw(row, row.Bounds(), from, image.Pt(b.Min.X, b.Min.Y+y), draw.Src)
		clear(narrow)
		for x, s := range across {
			pixel := row.Pix[4*x : 4*x+4]
			first := narrow[4*s.at : 4*s.at+4]
			for c := range 4 {
				first[c] += float32(pixel[c]) * s.first
			}
			if s.first < 1 {
				second := narrow[4*s.at+4 : 4*s.at+8]
				for c := range 4 {
					second[c] += float32(pixel[c]) * (1 - s.first)
				}
			}
		}
		s := down[y]
		for i, v := range narrow {
			sums[i] += v * s.first
		}
		if last := y == h-1 || down[y+1].at != s.at; last {
			line := to.Pix[s.at*to.Stride:]
			for i, v := range sums {
				line[i] = uint8(min(v*scale+0.5, 255))
				sums[i] = narrow[i] * (1 - s.first)
			}
		}
	}
}

// share says where a row or column of the larger picture goes: so much of it to one of the
// smaller, and the rest to the next.
type share struct {
	at    int
	first float32
}

func shares(from, to int) []share {
	all := make([]share, from)
	for i := range all {
		begin, end := i*to, (i+1)*to // in parts of 1/from
		at := begin / from
		all[i] = share{at, 1}
		if border := (at + 1) * from; end > border {
			all[i].first = float32(border-begin) / float32(to)
		}
	}
	return all
}

// turned turns and mirrors a picture as an orientation says.
func turned(p *image.RGBA, orientation int) *image.RGBA {
	if orientation == 1 {
		return p
	}
	w, h := p.Bounds().Dx(), p.Bounds().Dy()
	tw, th := w, h
	if orientation >= 5 {
		tw, th = h, w
	}
	to := image.NewRGBA(image.Rect(0, 0, tw, th))
	for y := range th {
		for x := range tw {
			fx, fy := from(orientation, x, y, w, h)
			copy(to.Pix[y*to.Stride+4*x:][:4], p.Pix[fy*p.Stride+4*fx:][:4])
		}
	}
	return to
}

// from is the place in a picture of w by h pixels that an upright place is taken from.
func from(orientation, x, y, w, h int) (int, int) {
	switch orientation {
	case 2:
		return w - 1 - x, y
	case 3:
		return w - 1 - x, h - 1 - y
	case 4:
		return x, h - 1 - y
	case 5:
		return y, x
	case 6:
		return y, h - 1 - x
	case 7:
		return w - 1 - y, h - 1 - x
	case 8:
		return w - 1 - y, x
	}
	return x, y
}
