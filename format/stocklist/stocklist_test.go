package stocklist

import (
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/format/sheet"
)

func TestAListIsReadInPeoplesUnits(t *testing.T) {
	rows, faults := Read(
		[]byte(
			"Material;Lot;Length;Width;Freezer;Place;Made;Shelf end;Out time;Accepted\nSable UD 150; SU-1 "+
				";42,5;600;Freezer 1;shelf 2;2026-03-01;1.3.2027;12,5;yes\n\nSable twill 200;ST-1;30;;;;;;;\n",
		),
		time.UTC,
	)
	require.Empty(t, faults)
	require.Len(t, rows, 2)
	r := rows[0]
	assert.Equal(t, "SU-1", r.Lot)
	assert.InDelta(t, 42.5, r.Length, 1e-12)
	assert.InDelta(t, 0.6, r.Width, 1e-12)
	assert.InDelta(t, 45000, r.Spent, 1e-9)
	assert.Equal(t, time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC), *r.Made)
	assert.Equal(t, time.Date(2027, 3, 1, 0, 0, 0, 0, time.UTC), *r.ShelfEnd)
	assert.True(t, r.Accepted)
	assert.Equal(t, 3, rows[1].Line, "an empty row is no roll")
	assert.False(t, rows[1].Accepted)
}

func TestTenThousandRowsOfWhichThreeAreBad(t *testing.T) {
	var list strings.Builder
	list.WriteString("material,lot,length\n")
	for i := range 10_000 {
		switch i {
		case 10:
			list.WriteString("Sable UD 150,SU-9,a lot\n")
		case 5_000:
			list.WriteString("Sable UD 150,,40\n")
		case 9_999:
			list.WriteString("Sable UD 150,SU-9,-4\n")
		default:
			fmt.Fprintf(&list, "Sable UD 150,SU-%d,40\n", i)
		}
	}
	rows, faults := Read([]byte(list.String()), time.UTC)
	assert.Len(t, rows, 9_997)
	assert.Equal(
		t,
		[]Fault{
			{12, `length: "a lot" is not a number`},
			{5_002, "the lot is missing"},
			{10_001, `length "-4" is not possible`},
		},
		faults,
	)
}

func TestTheSameListAsAWorkbook(t *testing.T) {
	var file bytes.Buffer
	require.NoError(
		t,
		sheet.WriteXLSX(
			&file,
			sheet.Table{
				Name:    "stock",
				Columns: []string{"lot", "length m", "material", "expires"},
				Rows:    [][]any{{"SU-1", 42.5, "Sable UD 150", "2027-03-01"}},
			},
		),
	)
	rows, faults := Read(file.Bytes(), time.UTC)
	require.Empty(t, faults)
	require.Len(t, rows, 1)
	assert.InDelta(t, 42.5, rows[0].Length, 1e-12)
	assert.Equal(t, 2027, rows[0].ShelfEnd.Year())
}

func TestAHeaderThatCannotBeIsNamed(t *testing.T) {
	for text, says := range map[string]string{
		"":                             "neither a CSV text file nor an XLSX",
		"%PDF-1.7\x00":                 "neither a CSV text file nor an XLSX",
		"material,lot\nx,y\n":          `the column "length" is missing`,
		"material,lot,length,colour\n": `column "colour" is not known`,
		"material,lot,length,batch\n":  `column "lot" is there twice`,
		"material,lot,length\n":        "a header and no rows",
		"material,lot,length,made\nx,y,1,yesterday\n":   `made "yesterday" is not a date`,
		"material,lot,length,accepted\nx,y,1,perhaps\n": "is neither yes nor no",
		"material,lot,length,out time\nx,y,1,NaN\n":     "is not a number",
	} {
		_, faults := Read([]byte(text), time.UTC)
		require.NotEmpty(t, faults, text)
		assert.Contains(t, strings.ReplaceAll(faults[0].Message, `"batch"`, `"lot"`), says)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("material,lot,length,made\nx,y,1,2026-01-01\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		rows, _ := Read(raw, time.UTC)
		for _, r := range rows {
			if r.Lot == "" || r.Material == "" || !(r.Length > 0) || r.Spent < 0 || r.Width < 0 {
				t.Fatalf("%+v", r)
			}
		}
	})
}
