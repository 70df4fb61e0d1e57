package hostile

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
)

// Frame is the beginning of a JPEG (ITU-T T.81) that says it has a size; the marker is that
// of its kind, 0xc2 for a progressive one.
func Frame(marker byte, w, h uint16) []byte {
	file := []byte{0xff, 0xd8, 0xff, marker, 0, 17, 8}
	file = binary.BigEndian.AppendUint16(file, h)
	file = binary.BigEndian.AppendUint16(file, w)
	return append(file, 3, 1, 0x22, 0, 2, 0x11, 0, 3, 0x11, 0)
}

// Scans is a progressive JPEG of so many scans, all empty.
func Scans(w, h uint16, n int) []byte {
	file := Frame(0xc2, w, h)
	for range n {
		file = append(file, 0xff, 0xda, 0, 8, 1, 1, 0, 0, 0, 0, 0xff, 0x00)
	}
	return append(file, 0xff, 0xd9)
}

// Circle is a JPEG with a camera's notes whose two directories point at one another.
func Circle(plain []byte) []byte {
	tiff := []byte("II*\x00\x08\x00\x00\x00")
	for _, next := range []uint32{14, 8} {
		tiff = append(tiff, 0, 0)
		tiff = binary.LittleEndian.AppendUint32(tiff, next)
	}
	segment := append([]byte("Exif\x00\x00"), tiff...)
	file := append([]byte{}, plain[:2]...)
	file = append(file, 0xff, 0xe1)
	file = binary.BigEndian.AppendUint16(file, uint16(len(segment)+2))
	return append(append(file, segment...), plain[2:]...)
}

// Photo is a JPEG of a size, as a camera makes it.
func Photo(w, h int) []byte {
	photo := image.NewYCbCr(image.Rect(0, 0, w, h), image.YCbCrSubsampleRatio420)
	for i := range photo.Y {
		photo.Y[i] = uint8(i * 31 / w)
	}
	var file bytes.Buffer
	if err := jpeg.Encode(&file, photo, nil); err != nil {
		panic(err) // a size that no JPEG has
	}
	return file.Bytes()
}

// Flat is a PNG of one colour, small as a file and large as a picture.
func Flat(w, h int) []byte {
	var file bytes.Buffer
	if err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&file,
		image.NewPaletted(image.Rect(0, 0, w, h), color.Palette{color.Black, color.White})); err != nil {
		panic(err) // a size that no PNG has
	}
	return file.Bytes()
}
