package picture_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/hostile"
	"dapper.example/internal/limited"
	"dapper.example/internal/picture"
)

// takesLong leaves out what takes a minute under the race detector where tests are to be
// short.
func takesLong(t *testing.T) {
	t.Helper()
	if testing.Short() {
		t.Skip("make test-long takes it")
	}
}

func TestA48MegapixelPhotographIsTakenWithin400MB(t *testing.T) {
	takesLong(t)
	photo := image.NewYCbCr(image.Rect(0, 0, 8000, 6000), image.YCbCrSubsampleRatio420)
	for i := range photo.Y {
		photo.Y[i] = uint8(i * 31 / 8000)
	}
	file := held(jpegOf(t, photo), 6)
	photo = nil
	var made picture.Made
	megabytes := limited.Spent(func() {
		var err error
		made, err = picture.Make(file)
		require.NoError(t, err)
	})
	assert.Equal(t, [2]int{2000, 2667}, [2]int{made.Width, made.Height})
	assert.Less(t, megabytes, 400)
	assert.Less(t, picture.Megabytes(file), int64(400))
	assert.GreaterOrEqual(t, picture.Megabytes(file), int64(72))
}

// Two directories of a camera's notes that point at one another are looked at once.
func TestDirectoriesThatPointAtOneAnother(t *testing.T) {
	plain := jpegOf(t, sky(80, 40))
	file := hostile.Circle(plain)
	made, err := picture.Make(file)
	require.NoError(t, err)
	assert.Equal(t, 80, made.Width)
}

func TestAJPEGOfManyScansIsRefused(t *testing.T) {
	_, err := picture.Make(hostile.Scans(4000, 3000, 1000))
	assert.ErrorContains(t, err, "drawn in 1000 passes")
	_, err = picture.Make(append(hostile.Frame(0xc2, 8000, 6000), 0xff, 0xda, 0, 8, 1, 1, 0, 0, 0, 0))
	assert.ErrorContains(t, err, "MB of memory")
}

func TestPicturesThatTakeTooMuchMemoryAreRefused(t *testing.T) {
	deep := image.NewNRGBA64(image.Rect(0, 0, 64, 64))
	for i := range deep.Pix {
		deep.Pix[i] = uint8(i * 7)
	}
	file := pngOf(t, deep)
	_, err := picture.Make(file)
	require.NoError(t, err)
	binary.BigEndian.PutUint32(file[16:], 7000)
	binary.BigEndian.PutUint32(file[20:], 7000)
	_, err = picture.Make(crc(file))
	assert.ErrorContains(t, err, "374 MB of memory")
}

func TestALargeFlatDrawingIsTakenWithin400MB(t *testing.T) {
	takesLong(t)
	var flat bytes.Buffer
	require.NoError(t, (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&flat,
		image.NewPaletted(image.Rect(0, 0, 7000, 7000), color.Palette{color.Black, color.White})))
	var made picture.Made
	var err error
	megabytes := limited.Spent(func() { made, err = picture.Make(flat.Bytes()) })
	require.NoError(t, err)
	assert.Equal(t, 2000, made.Width)
	assert.Less(t, megabytes, 400)
}

// crc puts the checksum of a PNG's head right.
func crc(file []byte) []byte { return append(headOf(file[16:29]), file[33:]...) }

func TestReadingEndsWithItsRequest(t *testing.T) {
	file := jpegOf(t, sky(2000, 2000))
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err := picture.MakeWithin(ctx, file)
	assert.ErrorIs(t, err, context.Canceled)
}

func FuzzMake(f *testing.F) {
	for _, p := range []image.Image{sky(40, 30), image.NewGray16(image.Rect(0, 0, 20, 20)),
		image.NewPaletted(image.Rect(0, 0, 33, 17), color.Palette{color.Black, color.White})} {
		var jpg, drawn bytes.Buffer
		if err := jpeg.Encode(&jpg, p, nil); err != nil {
			f.Fatal(err)
		}
		if err := png.Encode(&drawn, p); err != nil {
			f.Fatal(err)
		}
		f.Add(jpg.Bytes())
		f.Add(held(jpg.Bytes(), 6))
		f.Add(drawn.Bytes())
	}
	f.Add(bomb(5000, 5000))
	f.Add(hostile.Frame(0xc2, 3000, 3000))
	f.Fuzz(func(t *testing.T, file []byte) {
		limited.Work(t, 500, func() {
			made, err := picture.Make(file)
			if err == nil && (made.Width < 1 || made.Height < 1 || len(made.Files) == 0) {
				t.Fatalf("a picture of %d by %d with %d files", made.Width, made.Height, len(made.Files))
			}
		})
	})
}
