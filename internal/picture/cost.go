package picture

import (
	"bytes"
	"encoding/binary"
	"image"
)

const (
	// maxMegabytes is how much memory the reading of a picture may take.
	maxMegabytes = 330
	// maxScans is how many times a JPEG may go over its pixels; programs that write
	// progressive ones use ten or so.
	maxScans = 64
	// maxVisits is how many pixels all those scans may go over together.
	maxVisits = 1_000_000_000
	// spareMegabytes is what scaling and writing take beside, in all.
	spareMegabytes = 60
)

// Megabytes is about how much memory it takes to make a picture of a file, known from its
// first bytes and its markers; Make refuses what would take too much.
func Megabytes(file []byte) int64 {
	k, err := kindOf(file)
	if err != nil || len(file) > MaxBytes {
		return 1
	}
	config, err := k.config(bytes.NewReader(file))
	if err != nil || fits(config) != nil {
		return 1
	}
	cost, _ := costOf(file, k.name, config)
	return min(cost, maxMegabytes) + spareMegabytes
}

// costOf is how many megabytes reading a picture takes. It fails with *Refused for what
// goes over its pixels too often.
func costOf(file []byte, kind string, c image.Config) (megabytes int64, err error) {
	pixels := int64(c.Width) * int64(c.Height)
	var size int64
	switch kind {
	case "JPEG":
		p := readJPEG(file)
		if p.scans > maxScans || int64(p.scans)*pixels > maxVisits {
			return 0, refuse("The JPEG is drawn in %d passes, which takes too long. Save it again as an ordinary JPEG.", p.scans)
		}
		size = int64(p.samples * float64(pixels))
		if p.progressive {
			size *= 5 // beside each sample a coefficient of four bytes
		}
		if p.components > 3 {
			size += 4 * pixels
		}
	case "PNG":
		size = pixels * pngBytes(file)
	case "WebP":
		size = 2 * pixels
		if len(file) < 16 || string(file[12:16]) != "VP8 " {
			// Without loss, or with clearness: pixels of four bytes twice, and what its codes
			// may ask for.
			size = 8*pixels + 200<<20
		}
	default:
		size = pixels
	}
	return size>>20 + 1, nil
}

// jpegParts is what the markers of a JPEG say (ITU-T T.81, annex B).
type jpegParts struct {
	progressive bool
	components  int
	samples     float64 // for each pixel, of all components
	scans       int
}

// readJPEG goes through the markers of a JPEG, once and forward.
func readJPEG(file []byte) jpegParts {
	p := jpegParts{samples: 3, components: 3}
	for at := 2; at+3 < len(file); {
		if file[at] != 0xff {
			next := bytes.IndexByte(file[at:], 0xff) // the data of a scan
			if next < 0 {
				break
			}
			at += next
			continue
		}
		marker := file[at+1]
		switch {
		case marker == 0xff:
			at++
			continue
		case marker == 0x00 || marker >= 0xd0 && marker <= 0xd8 || marker == 0x01:
			at += 2
			continue
		case marker == 0xd9:
			return p
		}
		length := int(binary.BigEndian.Uint16(file[at+2:]))
		segment := file[at+4 : max(min(at+2+length, len(file)), at+4)]
		switch {
		case marker == 0xda:
			p.scans++
		case marker >= 0xc0 && marker <= 0xcf && marker != 0xc4 && marker != 0xc8 && marker != 0xcc:
			p.frame(marker, segment)
		}
		at += 2 + max(length, 2)
	}
	return p
}

func (p *jpegParts) frame(marker byte, segment []byte) {
	p.progressive = p.progressive || marker == 0xc2
	if len(segment) < 6 {
		return
	}
	p.components = int(segment[5])
	most, sum := 1, 0
	for i := 0; i < p.components && 6+3*i+1 < len(segment); i++ {
		h, v := int(segment[6+3*i+1]>>4), int(segment[6+3*i+1]&15)
		most, sum = max(most, h*v), sum+h*v
	}
	p.samples = max(float64(sum)/float64(most), 1)
}

// pngBytes is how many bytes a pixel takes (PNG, third edition, section 11.2.1).
func pngBytes(file []byte) int64 {
	if len(file) < 29 {
		return 8
	}
	depth, colour, interlaced := file[24], file[25], file[28] != 0
	size := int64(4)
	switch {
	case depth == 16:
		size = 8
	case colour == 3:
		size = 1
	}
	if interlaced {
		size *= 2 // each pass is read apart
	}
	return size
}

// orientation reads how a camera was held (Exif 2.32, tag 0x0112): 1 to 8, 1 for upright
// and where nothing is said. It looks for this one tag, where it belongs, and at nothing
// else.
func orientation(file []byte) int {
	for at := 2; at+4 <= len(file) && file[at] == 0xff && file[at+1] != 0xda; {
		length := int(binary.BigEndian.Uint16(file[at+2:]))
		end := at + 2 + length
		if length < 2 || end > len(file) {
			return 1
		}
		if segment := file[at+4 : end]; file[at+1] == 0xe1 && bytes.HasPrefix(segment, []byte("Exif\x00\x00")) {
			return exifOrientation(segment[6:])
		}
		at = end
	}
	return 1
}

// exifOrientation reads the tag from the first directory of a TIFF block (TIFF 6.0,
// section 2).
func exifOrientation(tiff []byte) int {
	if len(tiff) < 8 {
		return 1
	}
	var order binary.ByteOrder
	switch string(tiff[:2]) {
	case "MM":
		order = binary.BigEndian
	case "II":
		order = binary.LittleEndian
	default:
		return 1
	}
	const entry, tag, short = 12, 0x0112, 3
	at := int64(order.Uint32(tiff[4:]))
	if at+2 > int64(len(tiff)) {
		return 1
	}
	n := int64(order.Uint16(tiff[at:]))
	for i := range n {
		from := at + 2 + i*entry
		if from+entry > int64(len(tiff)) {
			return 1
		}
		field := tiff[from : from+entry]
		if order.Uint16(field) == tag && order.Uint16(field[2:]) == short {
			if o := int(order.Uint16(field[8:])); o >= 1 && o <= 8 {
				return o
			}
			return 1
		}
	}
	return 1
}
