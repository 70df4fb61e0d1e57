package picture_test

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/picture"
)

// sky is a picture with many colours, as a photograph has, whose upper left corner is
// red.
func sky(w, h int) *image.NRGBA {
	p := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			p.Set(x, y, color.NRGBA{uint8(x * 7), uint8(y * 5), uint8(x*y + 3), 255})
		}
	}
	for y := range h / 4 {
		for x := range w / 4 {
			p.Set(x, y, color.NRGBA{255, 0, 0, 255})
		}
	}
	return p
}

func jpegOf(t *testing.T, p image.Image) []byte {
	var out bytes.Buffer
	require.NoError(t, jpeg.Encode(&out, p, nil))
	return out.Bytes()
}

func pngOf(t *testing.T, p image.Image) []byte {
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, p))
	return out.Bytes()
}

// held is a JPEG that says how the camera was held.
func held(plain []byte, orientation uint16) []byte {
	tiff := []byte("MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01")
	tiff = binary.BigEndian.AppendUint16(tiff, orientation)
	tiff = append(tiff, 0, 0, 0, 0, 0, 0)
	segment := append([]byte("Exif\x00\x00"), tiff...)
	out := append([]byte{}, plain[:2]...)
	out = append(out, 0xff, 0xe1)
	out = binary.BigEndian.AppendUint16(out, uint16(len(segment)+2))
	out = append(out, segment...)
	return append(out, plain[2:]...)
}

func TestAPhotographIsMadeInSeveralWidths(t *testing.T) {
	made, err := picture.Make(jpegOf(t, sky(2400, 1200)))
	require.NoError(t, err)
	assert.Equal(t, "jpg", made.Type)
	assert.Equal(t, [2]int{2000, 1000}, [2]int{made.Width, made.Height})
	var widths []int
	for _, f := range made.Files {
		config, err := jpeg.DecodeConfig(bytes.NewReader(f.Data))
		require.NoError(t, err)
		assert.Equal(t, f.Width, config.Width)
		assert.Equal(t, f.Width/2, config.Height)
		widths = append(widths, f.Width)
	}
	assert.Equal(t, []int{480, 960, 2000}, widths)
}

func TestDrawingsStaySharpAndClearOnesClear(t *testing.T) {
	flat := image.NewNRGBA(image.Rect(0, 0, 300, 200))
	for i := range flat.Pix {
		flat.Pix[i] = 255
	}
	made, err := picture.Make(pngOf(t, flat))
	require.NoError(t, err)
	assert.Equal(t, "png", made.Type)
	assert.Len(t, made.Files, 1, "it is not made wider than it is")

	clear := sky(64, 64)
	clear.Set(1, 1, color.NRGBA{})
	made, err = picture.Make(pngOf(t, clear))
	require.NoError(t, err)
	assert.Equal(t, "png", made.Type)

	var moving bytes.Buffer
	frame := image.NewPaletted(image.Rect(0, 0, 40, 40), color.Palette{color.Black, color.White})
	require.NoError(t, gif.EncodeAll(&moving, &gif.GIF{Image: []*image.Paletted{frame, frame}, Delay: []int{1, 1}}))
	made, err = picture.Make(moving.Bytes())
	require.NoError(t, err)
	assert.Equal(t, "png", made.Type)

	made, err = picture.Make(pngOf(t, sky(500, 500)))
	require.NoError(t, err)
	assert.Equal(t, "jpg", made.Type, "a photograph in a PNG")
}

func TestACamerasWayOfHoldingIsUndone(t *testing.T) {
	corners := map[uint16]string{1: "upper left", 2: "upper right", 3: "lower right", 4: "lower left", 5: "upper left",
		6: "upper right", 7: "lower right", 8: "lower left"}
	for orientation, corner := range corners {
		made, err := picture.Make(held(jpegOf(t, sky(80, 40)), orientation))
		require.NoError(t, err)
		wide := orientation < 5
		assert.Equal(t, wide, made.Width > made.Height, "orientation %d", orientation)
		p, err := jpeg.Decode(bytes.NewReader(made.Files[0].Data))
		require.NoError(t, err)
		at := map[string]image.Point{"upper left": {2, 2}, "upper right": {made.Width - 3, 2},
			"lower left": {2, made.Height - 3}, "lower right": {made.Width - 3, made.Height - 3}}
		for name, point := range at {
			r, g, _, _ := p.At(point.X, point.Y).RGBA()
			assert.Equal(t, name == corner, r > 0xc000 && g < 0x4000, "orientation %d: %s", orientation, name)
		}
		assert.NotContains(t, string(made.Files[0].Data), "Exif", "nothing that a camera tells stays")
	}
}

// bomb is a PNG of few bytes that says it has the size.
func bomb(w, h uint32) []byte {
	data := binary.BigEndian.AppendUint32(nil, w)
	data = binary.BigEndian.AppendUint32(data, h)
	return headOf(append(data, 8, 6, 0, 0, 0))
}

// headOf is the beginning of a PNG with what its head holds.
func headOf(data []byte) []byte {
	head := append([]byte("IHDR"), data...)
	out := []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\x0d")
	out = append(out, head...)
	return binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(head))
}

func TestWhatIsNotTaken(t *testing.T) {
	photo := jpegOf(t, sky(100, 100))
	for name, c := range map[string]struct {
		file []byte
		says string
	}{
		"HTML named as a picture": {[]byte("<html><script>alert(1)</script></html>"), "not a picture"},
		"HTML behind a PNG's start": {append([]byte("\x89PNG\r\n\x1a\n"), "<html><script>"...),
			"looks like a PNG but can’t be read"},
		"SVG": {[]byte(`<svg xmlns="http://www.w3.org/2000/svg"><script/></svg>`),
			"not a picture"},
		"nothing":              {nil, "not a picture"},
		"20,000 pixels wide":   {bomb(20_000, 100), "20000 by 100 pixels"},
		"a decompression bomb": {bomb(11_000, 11_000), "50 million in all"},
		"a size of 2^31":       {bomb(1<<31-1, 1<<31-1), "can’t be read"},
		"a dot":                {pngOf(t, sky(8, 8)), "too small"},
		"cut off":              {photo[:len(photo)/2], "damaged"},
		"too many bytes":       {make([]byte, picture.MaxBytes+1), "larger than 20 MB"},
	} {
		_, err := picture.Make(c.file)
		var refused *picture.Refused
		if assert.ErrorAs(t, err, &refused, name) {
			assert.Contains(t, refused.Why, c.says, name)
		}
	}
}

func TestNoFileBreaksIt(t *testing.T) {
	photo, drawing := jpegOf(t, sky(40, 30)), pngOf(t, sky(40, 30))
	rapid.Check(t, func(t *rapid.T) {
		file := append([]byte{}, rapid.SampledFrom([][]byte{photo, drawing, held(photo, 6)}).Draw(t, "file")...)
		for range rapid.IntRange(1, 20).Draw(t, "changes") {
			file[rapid.IntRange(0, len(file)-1).Draw(t, "at")] = rapid.Byte().Draw(t, "byte")
		}
		made, err := picture.Make(file)
		if err != nil {
			var refused *picture.Refused
			assert.ErrorAs(t, err, &refused)
			return
		}
		assert.LessOrEqual(t, made.Width, picture.MaxSide)
	})
}

func TestNames(t *testing.T) {
	n := picture.Name{Key: "0123456789abcdef", Width: 1600, Height: 900, Type: "jpg"}
	assert.Equal(t, "0123456789abcdef-1600x900.jpg", n.String())
	for _, w := range []int{480, 960, 1600} {
		got, width, err := picture.ParseName(n.At(w))
		require.NoError(t, err)
		assert.Equal(t, n, got)
		assert.Equal(t, w, width)
	}
	for _, wrong := range []string{"", "x.jpg", "0123456789abcdef-1600x900@481.jpg", "0123456789abcdef-1600x900.svg",
		"../0123456789abcdef-1600x900.jpg",
		"0123456789abcdef-0x900.jpg", "0123456789abcdef-300x900@480.jpg"} {
		_, _, err := picture.ParseName(wrong)
		assert.ErrorIs(t, err, picture.ErrNoName, wrong)
	}
	srcset, w, h, ok := picture.Set("/blog/dome/pictures/" + n.String())
	assert.True(t, ok)
	assert.Equal(t, [2]int{1600, 900}, [2]int{w, h})
	assert.Equal(t, "/blog/dome/pictures/0123456789abcdef-1600x900@480.jpg 480w, /blog/dome/pictures/0123456789abcdef-1600x900@960.jpg 960w, "+
		"/blog/dome/pictures/0123456789abcdef-1600x900.jpg 1600w", srcset)
	for _, other := range []string{"https://elsewhere.example/a.jpg", "/blog/dome/a.jpg", "/blog/dome/pictures/a.jpg",
		":"} {
		_, _, _, ok := picture.Set(other)
		assert.False(t, ok, other)
	}
}
