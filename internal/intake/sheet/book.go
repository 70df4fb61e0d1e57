package sheet

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"iter"
	"slices"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"dapper.example/internal/budget"
)

const (
	// mostParts is how many parts an .xlsx file may have: a sheet, and what pictures and notes belong to it, are a few.
	mostParts = 2000
	// mostOther bounds a part that is read whole and becomes much larger in memory, such as the list of styles, in bytes.
	mostOther = 512 << 10
	// inMemory is up to which size of its XML a sheet, or the list of strings, is read in memory; what is larger goes by way of a
	// temporary file. In bytes.
	inMemory = 2 << 20
	// megabytes is what those parts of a book take in memory at most, made for nothing but to take much.
	megabytes = 96
	// patience is for how long a book waits for that memory.
	patience = 10 * time.Second
)

// openBook opens an .xlsx file.
func openBook(ctx context.Context, data []byte, limits Limits) (_ *File, err error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, unreadable("This file is cut off or damaged. Save it once more.")
	}
	if err := checkParts(z, limits); err != nil {
		return nil, err
	}
	release, err := budget.Take(ctx, megabytes, patience)
	if err != nil {
		return nil, err
	}
	defer func() {
		if err != nil {
			release()
		}
	}()
	var book *excelize.File
	err = unharmed(func() (err error) {
		book, err = excelize.OpenReader(bytes.NewReader(data), excelize.Options{UnzipSizeLimit: limits.Unpacked, UnzipXMLSizeLimit: min(inMemory, limits.Unpacked)})
		if err == nil {
			err = writeDatesPlainly(book)
		}
		return err
	})
	if err != nil {
		if book != nil {
			_ = book.Close() // its temporary files; why it can't be read is what counts
		}
		return nil, unreadable("This .xlsx file can't be read; it may be damaged or cut off. Open it in the program that made it and save it once more, or save it as .csv.")
	}
	names := book.GetSheetList()
	if len(names) == 0 {
		return nil, errors.Join(unreadable("This file has no sheet."), book.Close())
	}
	found := parts(z)
	return &File{limits: limits, names: names, close: func() error { defer release(); return book.Close() },
		rows: func(ctx context.Context, name string) iter.Seq2[Row, error] {
			return bookRows(ctx, book, name, found[name])
		}}, nil
}

// checkParts looks at the directory of the file before anything is unpacked. A part that is larger than the directory says is
// refused when it is read (archive/zip).
func checkParts(z *zip.Reader, limits Limits) error {
	if len(z.File) > mostParts {
		return unreadable("This file has more than %d parts. Save the sheet as .csv.", mostParts)
	}
	sum := uint64(0)
	isBook := false
	for _, p := range z.File {
		name := strings.ToLower(p.Name)
		isBook = isBook || name == "xl/workbook.xml"
		sum += p.UncompressedSize64
		read := strings.HasSuffix(name, ".xml") || strings.HasSuffix(name, ".rels")
		large := strings.HasPrefix(name, "xl/worksheets/") || name == "xl/sharedstrings.xml"
		if sum > uint64(limits.Unpacked) || p.UncompressedSize64 > uint64(limits.Unpacked) {
			return unreadable("This file is larger than %s unpacked. Save a part of it as a file of its own, or save it as .csv.", size(limits.Unpacked))
		}
		if read && !large && p.UncompressedSize64 > mostOther {
			return unreadable("The part “%s” of this file is larger than %s. Save the sheet as .csv.", p.Name, size(mostOther))
		}
	}
	if !isBook {
		return unreadable("This is a packed file, but not an .xlsx sheet. Save the sheet as .xlsx or .csv.")
	}
	return nil
}

// bookRows are the rows of a sheet, as they are shown. Of cells that are merged, the first has the value.
func bookRows(ctx context.Context, book *excelize.File, name string, part *zip.File) iter.Seq2[Row, error] {
	return func(yield func(Row, error) bool) {
		if !slices.Contains(book.GetSheetList(), name) || part == nil {
			yield(Row{}, unreadable("There is no sheet “%s” in this file.", name))
			return
		}
		seen, err := look(ctx, name, part)
		if err != nil {
			yield(Row{}, err)
			return
		}
		var rows *excelize.Rows
		err = unharmed(func() (err error) {
			rows, err = book.Rows(name)
			return err
		})
		if err != nil {
			yield(Row{}, unreadable("The sheet “%s” can't be read.", name))
			return
		}
		defer rows.Close()
		for line := 1; ctx.Err() == nil; line++ {
			var cells []string
			more := false
			err := unharmed(func() (err error) {
				if more = rows.Next(); more {
					cells, err = rows.Columns()
				} else {
					err = rows.Error()
				}
				return err
			})
			if err != nil {
				yield(Row{}, unreadable("Row %d of the sheet “%s” can't be read. Save the sheet once more, or as .csv.", line, name))
				return
			}
			if !more {
				if line <= seen.lastRow {
					yield(Row{}, unreadable("The sheet “%s” is damaged from row %d on. Save it once more, or as .csv.", name, line))
				}
				return
			}
			if !yield(Row{Line: line, Cells: cells}, nil) {
				return
			}
		}
		yield(Row{}, ctx.Err())
	}
}

// unharmed does work of a library on a file that may be anything, and makes an error of a panic.
func unharmed(work func() error) (err error) {
	defer func() {
		if problem := recover(); problem != nil {
			err = fmt.Errorf("the file is not what it should be: %v", problem)
		}
	}()
	return work()
}
