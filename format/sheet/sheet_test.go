package sheet

import (
	"archive/zip"
	"bytes"
	"fmt"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

var table = Table{Name: "rolls", Columns: []string{"roll", "area", "when"}, Rows: [][]any{
	{
		"R-4KD7Q",
		1.25,
		time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC),
	}, {"=SUM(A1:A9)", 3, nil}, {"ö, \"x\"\nnext", -2.5, "@cmd"},
}}

func TestCSVGoesThroughAndRunsNothing(t *testing.T) {
	var file bytes.Buffer
	require.NoError(t, WriteCSV(&file, table))
	rows, err := Read(file.Bytes())
	require.NoError(t, err)
	assert.Equal(
		t,
		[][]string{
			{"roll", "area", "when"},
			{"R-4KD7Q", "1.25", "2026-03-04T05:06:07Z"},
			{"'=SUM(A1:A9)", "3", ""},
			{"ö, \"x\"\nnext", "-2.5", "'@cmd"},
		},
		rows,
	)
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
		"empty": {}, "binary": {0, 1, 2}, "a broken archive": []byte("PK\x03\x04rubbish"),
		"an archive that unpacks to far more": bomb.Bytes(),
	} {
		_, err := Read(raw)
		assert.ErrorIs(t, err, ErrNotATable, name)
	}
	_, err = Read([]byte(strings.Repeat("1\n", MaxRows+2)))
	assert.ErrorContains(t, err, fmt.Sprintf("larger than %d rows", MaxRows))
	_, err = Read([]byte("a,\"b\nc"))
	assert.ErrorContains(t, err, "breaks off")
}

// Each kind of file that would be read wrongly has a sentence of its own.
func TestOtherEncodingsAndLockedWorkbooksAreNamed(t *testing.T) {
	for says, raw := range map[string]string{
		"not in UTF-8":                "lot;length\nM\xfcller;3\n", // Windows-1252
		"in UTF-16":                   "\xff\xfel\x00o\x00t\x00",
		"protected by a password":     "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1 and more",
		"neither a CSV text file nor": "\x00\x01",
	} {
		_, err := Read([]byte(raw))
		assert.ErrorContains(t, err, says)
	}
}

// What a spreadsheet shows is not what it holds. The workbook is written by a
// general-purpose library.
func TestStoredValuesAreReadAndNotWhatIsShown(t *testing.T) {
	book := excelize.NewFile()
	format := func(code string) int {
		id, err := book.NewStyle(&excelize.Style{CustomNumFmt: &code})
		require.NoError(t, err)
		return id
	}
	day := time.Date(2026, 4, 3, 0, 0, 0, 0, time.UTC)
	cells := []struct {
		at    string
		value any
		shown string
		want  string
	}{
		{
			"A1",
			1200,
			"#,##0",
			"1200",
		}, {"B1", 22.5, "0", "22.5"}, {"C1", 0.1 + 0.2, "0.00", "0.3"}, {"D1", day, "mm/dd/yy", "2026-04-03"}, {"E1",
			day.Add(14*time.Hour + 30*time.Minute), "d.m.yy h:mm", "2026-04-03 14:30:00"},
		{
			"A2",
			1234567.25,
			"#,##0.00",
			"1234567.25",
		}, {"B2", -3, `"minus" 0`, "-3"}, {"C2", "1,234", "", "1,234"}, {"D2", true, "", "yes"},
		{"E2", 5, "[Red]0 \"d\"",
			"5"}, {"F2", 1e-7, "", "0.0000001"},
	}
	for _, c := range cells {
		require.NoError(t, book.SetCellValue("Sheet1", c.at, c.value))
		if c.shown != "" {
			require.NoError(t, book.SetCellStyle("Sheet1", c.at, c.at, format(c.shown)))
		}
	}
	require.NoError(t, book.SetCellValue("Sheet1", "C4", "after a gap"))
	var file bytes.Buffer
	require.NoError(t, book.Write(&file))
	rows, err := Read(file.Bytes())
	require.NoError(t, err)
	require.Len(t, rows, 4)
	for _, c := range cells {
		column, row, err := excelize.CellNameToCoordinates(c.at)
		require.NoError(t, err)
		assert.Equal(t, c.want, rows[row-1][column-1], c.at)
	}
	assert.Empty(t, rows[2])
	assert.Equal(t, []string{"", "", "after a gap"}, rows[3])
}

// parts makes a workbook of raw parts.
func parts(t *testing.T, sheet, strings string) []byte {
	t.Helper()
	var out bytes.Buffer
	archive := zip.NewWriter(&out)
	for name, content := range map[string]string{
		"xl/workbook.xml": `<workbook
			xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships">
			<sheets><sheet name="a" sheetId="1" r:id="rId1"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships>
			<Relationship Id="rId1" Target="worksheets/sheet1.xml"/></Relationships>`,
		"xl/worksheets/sheet1.xml": sheet, "xl/sharedStrings.xml": strings,
	} {
		w, err := archive.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(content))
		require.NoError(t, err)
	}
	require.NoError(t, archive.Close())
	return out.Bytes()
}

// One long text that 200,000 cells name took 11 GB and 70 s: a file of 30 kB.
func TestALongTextNamedByManyCellsIsRefused(t *testing.T) {
	var rows strings.Builder
	for r := 1; r <= 4000; r++ {
		fmt.Fprintf(&rows, `<row r="%d">`, r)
		for range 50 {
			rows.WriteString(`<c t="s"><v>0</v></c>`)
		}
		rows.WriteString(`</row>`)
	}
	raw := parts(
		t,
		`<worksheet><sheetData>`+rows.String()+`</sheetData></worksheet>`,
		`<sst><si><t>`+strings.Repeat("x", 30_000)+`</t></si></sst>`,
	)
	require.Less(t, len(raw), 40_000)
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	_, err := Read(raw)
	runtime.ReadMemStats(&after)
	assert.ErrorContains(t, err, "more text than is read")
	assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(200<<20))
	for says, sheet := range map[string]string{
		"larger than": `<worksheet><sheetData><row r="1"><c r="XFD1"><v>1</v></c></row></sheetData></worksheet>`,
		"larger":      `<worksheet><sheetData><row r="1048576"><c><v>1</v></c></row></sheetData></worksheet>`,
		"neither":     `<worksheet><sheetData><row r="1"><c><v>1`,
	} {
		_, err := Read(parts(t, sheet, ""))
		assert.ErrorContains(t, err, says)
	}
	_, err = Read(parts(t, "", `<sst><si><t>`+strings.Repeat("y", 200_000)+`</t></si></sst>`))
	assert.ErrorContains(t, err, "more text than is read")
}

// Workbooks of any structure are read within their bounds, or refused.
func FuzzWorkbook(f *testing.F) {
	f.Add(
		`<worksheet><sheetData><row r="2"><c r="B2" t="s" s="1"><v>0</v></c>
			<c t="inlineStr"><is><t>x</t></is></c></row></sheetData></worksheet>`,
		`<sst><si><r><t>a</t></r><rPh><t>b</t></rPh></si></sst>`,
	)
	f.Add(`<row><c r="A1"><v>1e999</v></c></row>`, ``)
	f.Fuzz(func(t *testing.T, sheet, strings string) {
		rows, err := Read(parts(t, sheet, strings))
		if err == nil && (len(rows) > MaxRows || len(rows) > 0 && len(rows[0]) > maxCols) {
			t.Fatal("more than is read")
		}
	})
}

// Nothing of a cell is run, whatever mark a spreadsheet takes for the end of one.
func TestNoCellIsRun(t *testing.T) {
	for text, want := range map[string]string{
		"=1+1": "'=1+1", "x;=1+1": "x;'=1+1", "a\t@cmd": "a\t'@cmd", "x; \"-2": "x; \"'-2", "plain": "plain",
		"3 - 4": "3 - 4", "a;b": "a;b", "l\n=2": "l\n'=2",
	} {
		assert.Equal(t, want, Text(text))
	}
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
