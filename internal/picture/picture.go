// Package picture makes the pictures of a blog from what people bring: each is decoded,
// turned upright and written anew in several widths, so that nothing of the file that
// was brought is ever served: no script hidden in it, no place where it was taken.
//
// It decides by content what a file is, never by its name, and looks at its size before
// it decodes it.
package picture

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/gif"
	"image/jpeg"
	"image/png"
	"io"
	"net/url"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/image/webp"
)

// Limits on what is taken.
const (
	// MaxBytes is the largest file, in bytes.
	MaxBytes = 20 << 20
	// MaxSide is the longest side, in pixels.
	MaxSide = 12_000
	// MaxPixels is the most pixels in all.
	MaxPixels = 50_000_000
	minSide   = 16

	// fullWidth is the width that a picture is kept at most in.
	fullWidth = 2000
	// fullHeight is the height that one is kept at most in.
	fullHeight = 6000
	quality    = 84 // of JPEG, of 100
)

// narrower are the widths that a picture is made in beside its full one, as far as it is
// wider.
var narrower = []int{480, 960}

// Refused says why a file is not taken, in a sentence for whoever brought it.
type Refused struct{ Why string }

// Error returns the sentence.
func (r *Refused) Error() string { return r.Why }

func refuse(format string, args ...any) error { return &Refused{fmt.Sprintf(format, args...)} }

// Made is a picture in all its widths.
type Made struct {
	Type   string // jpg or png
	Width  int    // of the full one, in pixels
	Height int
	Files  []File // the full one last
}

// File is a picture in one width.
type File struct {
	Width int
	Data  []byte
}

// kind is a format that is taken.
type kind struct {
	name   string
	config func(io.Reader) (image.Config, error)
	decode func(io.Reader) (image.Image, error)
}

var kinds = []struct {
	magic string
	kind
}{
	{"\xff\xd8\xff", kind{"JPEG", jpeg.DecodeConfig, jpeg.Decode}},
	{"\x89PNG\r\n\x1a\n", kind{"PNG", png.DecodeConfig, png.Decode}},
	{"GIF87a", kind{"GIF", gif.DecodeConfig, gif.Decode}}, // the first image only
	{"GIF89a", kind{"GIF", gif.DecodeConfig, gif.Decode}},
}

func kindOf(file []byte) (kind, error) {
	for _, k := range kinds {
		if bytes.HasPrefix(file, []byte(k.magic)) {
			return k.kind, nil
		}
	}
	if len(file) > 12 && string(file[:4]) == "RIFF" && string(file[8:12]) == "WEBP" {
		return kind{"WebP", webp.DecodeConfig, webp.Decode}, nil
	}
	return kind{}, refuse("This file is not a picture that can be shown. Upload a JPEG, PNG, GIF or WebP file.")
}

// Make makes a picture from a file. It fails with *Refused.
func Make(file []byte) (Made, error) { return MakeWithin(context.Background(), file) }

// MakeWithin is Make for as long as a context lasts: reading ends with it.
func MakeWithin(ctx context.Context, file []byte) (Made, error) {
	if len(file) > MaxBytes {
		return Made{}, refuse("The file is larger than %d MB. Make it smaller.", MaxBytes>>20)
	}
	k, err := kindOf(file)
	if err != nil {
		return Made{}, err
	}
	config, err := k.config(bytes.NewReader(file))
	if err != nil {
		return Made{}, refuse("The file looks like a %s but can’t be read. Upload the original.", k.name)
	}
	if err := fits(config); err != nil {
		return Made{}, err
	}
	cost, err := costOf(file, k.name, config)
	if err != nil {
		return Made{}, err
	}
	if cost > maxMegabytes {
		return Made{}, refuse("This %s of %d by %d pixels would take %d MB of memory to read; the limit is %d. Save it smaller, or as an ordinary JPEG.",
			k.name, config.Width, config.Height, cost, maxMegabytes)
	}
	decoded, err := k.decode(&reader{ctx.Err, file})
	if err := ctx.Err(); err != nil {
		return Made{}, err
	}
	if err != nil {
		return Made{}, refuse("The %s is damaged and can’t be read to its end. Upload it again.", k.name)
	}
	held := 1
	if k.name == "JPEG" {
		held = orientation(file)
	}
	w, h := decoded.Bounds().Dx(), decoded.Bounds().Dy()
	if held >= 5 {
		h, w = fullSize(h, w)
	} else {
		w, h = fullSize(w, h)
	}
	small := scaled(decoded, w, h)
	return encode(turned(small, held), k.name)
}

// reader reads a file for as long as somebody waits for it.
type reader struct {
	ended func() error // why nobody does any more
	data  []byte
}

// Read reads on, a part of the file at a time.
func (r *reader) Read(p []byte) (int, error) {
	if err := r.ended(); err != nil {
		return 0, err
	}
	if len(r.data) == 0 {
		return 0, io.EOF
	}
	n := copy(p, r.data)
	r.data = r.data[n:]
	return n, nil
}

// fullSize is the size that a picture of a size is kept in.
func fullSize(w, h int) (width, height int) {
	width = min(w, fullWidth)
	height = max(1, (h*width+w/2)/w)
	if height > fullHeight {
		height = fullHeight
		width = max(1, (w*height+h/2)/h)
	}
	return width, height
}

func fits(c image.Config) error {
	switch {
	case c.Width > MaxSide || c.Height > MaxSide || c.Width*c.Height > MaxPixels:
		return refuse("The picture is %d by %d pixels. The limit is %d on a side and %d million in all; make it smaller.",
			c.Width, c.Height, MaxSide, MaxPixels/1_000_000)
	case c.Width < minSide || c.Height < minSide:
		return refuse("The picture is %d by %d pixels, which is too small to see. Upload one of at least %d on each side.", c.Width, c.Height, minSide)
	}
	return nil
}

// Of makes a picture of what a program has drawn.
func Of(drawn image.Image) (Made, error) {
	w, h := fullSize(drawn.Bounds().Dx(), drawn.Bounds().Dy())
	return encode(scaled(drawn, w, h), "JPEG")
}

func encode(full *image.RGBA, from string) (Made, error) {
	made := Made{Type: "jpg", Width: full.Bounds().Dx(), Height: full.Bounds().Dy()}
	if !full.Opaque() || from == "PNG" && fewColours(full) || from == "GIF" {
		made.Type = "png"
	}
	for _, width := range append(Narrower(made.Width), made.Width) {
		one := full
		if width != made.Width {
			one = scaled(full, width, max(1, (made.Height*width+made.Width/2)/made.Width))
		}
		var out bytes.Buffer
		var err error
		if made.Type == "jpg" {
			err = jpeg.Encode(&out, one, &jpeg.Options{Quality: quality})
		} else {
			err = (&png.Encoder{CompressionLevel: png.BestCompression}).Encode(&out, one)
		}
		if err != nil {
			return Made{}, fmt.Errorf("writing a picture: %w", err)
		}
		made.Files = append(made.Files, File{width, out.Bytes()})
	}
	return made, nil
}

// Narrower lists the widths beside the full one that a picture of a width is made in.
func Narrower(full int) []int {
	var widths []int
	for _, w := range narrower {
		if w < full {
			widths = append(widths, w)
		}
	}
	return widths
}

// fewColours tells drawings from photographs, by whether a sample of the pixels has few
// colours.
func fewColours(p *image.RGBA) bool {
	const step, few = 97, 256 // a prime, so that no pattern is sampled alone
	seen := make(map[[3]uint8]bool)
	for i := 0; i+3 < len(p.Pix); i += 4 * step {
		seen[[3]uint8(p.Pix[i:i+3])] = true
		if len(seen) > few {
			return false
		}
	}
	return true
}

// Name is what a picture is called in addresses. It says the size, so that a page can
// keep the place free and offer other widths without looking it up.
type Name struct {
	Key           string // 16 letters and digits
	Width, Height int    // of the full one
	Type          string // jpg or png
}

var nameForm = regexp.MustCompile(`^([0-9a-z]{16})-(\d{1,5})x(\d{1,5})(?:@(\d{1,5}))?\.(jpg|png)$`)

// String writes the name of the full picture.
func (n Name) String() string { return fmt.Sprintf("%s-%dx%d.%s", n.Key, n.Width, n.Height, n.Type) }

// At writes the name of the picture in a width.
func (n Name) At(width int) string {
	if width == n.Width {
		return n.String()
	}
	return fmt.Sprintf("%s-%dx%d@%d.%s", n.Key, n.Width, n.Height, width, n.Type)
}

// ErrNoName says that a text is not the name of a picture.
var ErrNoName = errors.New("not the name of a picture")

// ParseName reads a name, and the width that it asks for. It fails with ErrNoName.
func ParseName(text string) (n Name, width int, err error) {
	m := nameForm.FindStringSubmatch(text)
	if m == nil {
		return n, 0, ErrNoName
	}
	n = Name{Key: m[1], Width: atoi(m[2]), Height: atoi(m[3]), Type: m[5]}
	width = n.Width
	if m[4] != "" {
		width = atoi(m[4])
	}
	if n.Width == 0 || n.Height == 0 || width != n.Width && !slices.Contains(Narrower(n.Width), width) {
		return n, 0, ErrNoName
	}
	return n, width, nil
}

func atoi(digits string) int {
	n, _ := strconv.Atoi(digits) // the form allows digits only
	return n
}

// Set is what a page says of a picture at an address, so that a browser can choose a
// width (HTML, section 4.8.4.2): the srcset, width and height. It tells whether the
// address is that of one of ours.
func Set(address string) (srcset string, width, height int, ok bool) {
	u, err := url.Parse(address)
	if err != nil || !strings.HasPrefix(u.Path, "/blog/") || path.Base(path.Dir(u.Path)) != "pictures" {
		return "", 0, 0, false
	}
	n, _, err := ParseName(path.Base(u.Path))
	if err != nil {
		return "", 0, 0, false
	}
	dir := strings.TrimSuffix(address, path.Base(u.Path))
	var parts []string
	for _, w := range append(Narrower(n.Width), n.Width) {
		parts = append(parts, fmt.Sprintf("%s%s %dw", dir, n.At(w), w))
	}
	return strings.Join(parts, ", "), n.Width, n.Height, true
}
