package sheet

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

var table = Table{Name: "rolls", Columns: []string{"roll", "area", "when"}, Rows: [][]any{
	{"R-4KD7Q", 1.25, time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)}, {"=SUM(A1:A9)", 3, nil}, {"ö, \"x\"\nnext", -2.5, "@cmd"},
}}

func TestCSVGoesThroughAndRunsNothing(t *testing.T) {
	var file bytes.Buffer
	require.NoError(t, WriteCSV(&file, table))
	rows, err := Read(file.Bytes())
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"roll", "area", "when"}, {"R-4KD7Q", "1.25", "2026-03-04T05:06:07Z"}, {"'=SUM(A1:A9)", "3", ""}, {"ö, \"x\"\nnext", "-2.5", "'@cmd"}}, rows)
}

func TestXLSXGoesThroughAndRunsNothing(t *testing.T) {
	var file bytes.Buffer
	require.NoError(t, WriteXLSX(&file, table, Table{Name: "other", Columns: []string{"a"}}))
	rows, err := Read(file.Bytes())
	require.NoError(t, err)
	require.Len(t, rows, 4)
	assert.Equal(t, []string{"R-4KD7Q", "1.25"}, rows[1][:2])
	assert.Equal(t, "=SUM(A1:A9)", rows[2][0], "text, not a formula")
	book, err := excelize.OpenReader(bytes.NewReader(file.Bytes()))
	require.NoError(t, err)
	formula, err := book.GetCellFormula("rolls", "A3")
	require.NoError(t, err)
	assert.Empty(t, formula)
	assert.Equal(t, []string{"rolls", "other"}, book.GetSheetList())
}

func TestOtherSeparatorsAndMarks(t *testing.T) {
	for _, text := range []string{"\xef\xbb\xbfa;b\n1;2,5\n", "a\tb\n1\t2,5\n"} {
		rows, err := Read([]byte(text))
		require.NoError(t, err)
		assert.Equal(t, [][]string{{"a", "b"}, {"1", "2,5"}}, rows)
	}
}

func TestWhatIsNoTableIsRefused(t *testing.T) {
	var bomb bytes.Buffer
	archive := zip.NewWriter(&bomb)
	part, err := archive.Create("xl/worksheets/sheet1.xml")
	require.NoError(t, err)
	for range 64 {
		_, _ = part.Write(bytes.Repeat([]byte{'0'}, 4<<20)) // 256 MB of nothing
	}
	require.NoError(t, archive.Close())
	require.Less(t, bomb.Len(), 1<<20)
	for name, raw := range map[string][]byte{
		"empty": {}, "binary": {0, 1, 2}, "not UTF-8": {'a', 0xff, 0xfe}, "a broken archive": []byte("PK\x03\x04rubbish"), "an archive that unpacks to far more": bomb.Bytes(),
	} {
		_, err := Read(raw)
		assert.ErrorIs(t, err, ErrNotATable, name)
	}
	_, err = Read([]byte(strings.Repeat("1\n", MaxRows+2)))
	assert.ErrorContains(t, err, fmt.Sprintf("larger than %d rows", MaxRows))
	_, err = Read([]byte("a,\"b\nc"))
	assert.ErrorContains(t, err, "breaks off")
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("a,b\n1,2\n"))
	f.Add([]byte("PK\x03\x04"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		rows, err := Read(raw)
		if err == nil && len(rows) > MaxRows {
			t.Fatal("more rows than are read")
		}
	})
}
