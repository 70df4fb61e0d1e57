package sheet_test

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"dapper.example/internal/intake/sheet"
)

// BenchmarkBook reads 50,000 rows of eight cells, and has the library alone do so.
func BenchmarkBook(b *testing.B) {
	const rows = 50_000
	f := excelize.NewFile()
	w, err := f.NewStreamWriter("Sheet1")
	require.NoError(b, err)
	text := strings.Repeat("Clear skies over the dome. ", 20)
	for i := range rows {
		require.NoError(b, w.SetRow(fmt.Sprint("A", i+1), []any{fmt.Sprint("Title ", i), text, "Sky Guide", "moon, dome", 46000 + i%300, i, "Ines Abara", true}))
	}
	require.NoError(b, w.Flush())
	out, err := f.WriteToBuffer()
	require.NoError(b, err)
	large := sheet.Limits{Bytes: 64 << 20, Unpacked: 512 << 20, Rows: rows, Columns: 100, Cell: 1 << 20}
	b.Run("rows", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			f, err := sheet.Open(context.Background(), out.Bytes(), large)
			require.NoError(b, err)
			n := 0
			for _, err := range f.Rows(context.Background(), f.Names()[0]) {
				require.NoError(b, err)
				n++
			}
			require.Equal(b, rows, n)
			require.NoError(b, f.Close())
		}
	})
	b.Run("the library alone", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			f, err := excelize.OpenReader(bytes.NewReader(out.Bytes()))
			require.NoError(b, err)
			all, err := f.Rows("Sheet1")
			require.NoError(b, err)
			for all.Next() {
				_, err := all.Columns()
				require.NoError(b, err)
			}
			require.NoError(b, all.Close())
			require.NoError(b, f.Close())
		}
	})
}
