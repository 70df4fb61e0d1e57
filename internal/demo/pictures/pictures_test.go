package pictures_test

import (
	"crypto/sha256"
	"fmt"
	"image"
	"image/png"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/demo/pictures"
)

var scenes = []pictures.Scene{pictures.Chart, pictures.Dome, pictures.Meteors, pictures.Moon, pictures.Phases,
	pictures.Bench, pictures.Planet, pictures.Lane}

func TestPicturesDifferAndStayTheSame(t *testing.T) {
	seen := map[[32]byte]string{}
	for _, scene := range scenes {
		for i := range 3 {
			name := fmt.Sprint("post ", i)
			p, alt := pictures.Picture(scene, name)
			again, _ := pictures.Picture(scene, name)
			raw := p.(*image.NRGBA).Pix
			assert.Equal(t, raw, again.(*image.NRGBA).Pix, "%s: the same each time", scene)
			assert.NotEmpty(t, alt)
			sum := sha256.Sum256(raw)
			assert.Empty(t, seen[sum], "%s %s", scene, name)
			seen[sum] = name
		}
	}
}

// With DRAWN naming a folder, one of each scene is put there to be looked at.
func TestDrawnToBeLookedAt(t *testing.T) {
	dir := os.Getenv("DRAWN")
	if dir == "" {
		t.Skip("DRAWN names no folder")
	}
	sheet := image.NewNRGBA(image.Rect(0, 0, 4*420, 4*280))
	for i := range 16 {
		p, _ := pictures.Picture(scenes[i%8], fmt.Sprint("look ", i))
		for y := range 280 {
			for x := range 420 {
				sheet.Set(i%4*420+x, i/4*280+y, p.At(2*x, 2*y))
			}
		}
	}
	file, err := os.Create(dir + "/scenes.png")
	require.NoError(t, err)
	defer file.Close()
	require.NoError(t, png.Encode(file, sheet))
}

func BenchmarkPicture(b *testing.B) {
	for _, scene := range scenes {
		b.Run(string(scene), func(b *testing.B) {
			for i := range b.N {
				pictures.Picture(scene, fmt.Sprint(i))
			}
		})
	}
}
