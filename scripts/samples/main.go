// Command samples writes the sample files for imports into a folder: an archive of articles with pictures, and a sheet. All that is in
// them is invented.
package main

import (
	"archive/zip"
	"bytes"
	"fmt"
	"image/jpeg"
	"os"
	"path/filepath"
	"time"

	"dapper.example/internal/demo/pictures"
	"dapper.example/internal/intake/sheet"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: samples FOLDER")
		os.Exit(2)
	}
	if err := write(os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func write(folder string) error {
	var archive bytes.Buffer
	z := zip.NewWriter(&archive)
	for _, f := range articles {
		w, err := z.CreateHeader(&zip.FileHeader{Name: f.path, Method: zip.Deflate, Modified: made})
		if err != nil {
			return err
		}
		if _, err := w.Write([]byte(f.text)); err != nil {
			return err
		}
	}
	for _, one := range []struct {
		path  string
		scene pictures.Scene
	}{{"pictures/moon-over-the-ridge.jpg", pictures.Moon}, {"pictures/winter-chart.jpg", pictures.Chart}, {"workbench/pictures/eyepieces.jpg", pictures.Bench}} {
		drawn, _ := pictures.Picture(one.scene, one.path)
		w, err := z.CreateHeader(&zip.FileHeader{Name: one.path, Method: zip.Store, Modified: made})
		if err != nil {
			return err
		}
		if err := jpeg.Encode(w, drawn, &jpeg.Options{Quality: 72}); err != nil {
			return err
		}
	}
	if err := z.Close(); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(folder, "winter-nights.zip"), archive.Bytes(), 0o644); err != nil { //nolint:gosec // a sample
		return err
	}
	book, err := os.Create(filepath.Join(folder, "instruments.xlsx"))
	if err != nil {
		return err
	}
	defer book.Close()
	return sheet.WriteBook(book, instruments)
}

// made is when the files say they were made: the same each time.
var made = time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
