package pdf

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/format/pdf/pdftest"
)

func TestARecordOpensInAnotherReaderWithAllItsRows(t *testing.T) {
	r := Record{Title: "As-built record", Subtitle: "Panel, 45° and 0.5 mm²", Foot: "B-4KD7Q", Sections: []Section{
		{
			Heading: "Layup",
			Notes:   []string{"Counted."},
			Columns: []Column{{Name: "Ply", Share: 0.2, Right: true}, {Name: "Signed", Share: 0.8}},
		},
		{Heading: "Nothing", Columns: []Column{{Name: "Empty", Share: 1}}},
	}}
	for i := range 120 {
		r.Sections[0].Rows = append(r.Sections[0].Rows, []string{fmt.Sprint(i + 1), fmt.Sprintf("hand %d", i+1)})
	}
	plain := text(t, r, 3)
	for _, says := range []string{"As-built record", "hand 1", "hand 120", "nothing recorded", "B-4KD7Q", "3 / 3"} {
		assert.Contains(t, plain, says)
	}
}

// Nobody's reason is cut short, and nobody's name is written with question marks.
func TestWhatIsLongOrForeignStandsWhole(t *testing.T) {
	reason := "the third ply bridged over the radius at the hinge pad and was lifted, warmed and laid down again " +
		"before the next one went on"
	r := Record{
		Title: "Zażółć gęślą jaźń",
		Foot:  "Ψηφίο",
		Sections: []Section{
			{
				Heading: "Layup",
				Columns: []Column{{Name: "Why", Share: 0.25}, {Name: "Who", Share: 0.75}},
				Rows:    [][]string{{reason, "Дарья Őri"}},
			},
		},
	}
	plain := text(t, r, 1)
	for _, says := range []string{reason, "Zażółć gęślą jaźń", "Ψηφίο", "Дарья Őri"} {
		assert.Contains(t, plain, says)
	}
}

// text sets a record and gives what an independent reader reads in it.
func text(t *testing.T, r Record, pages int) string {
	t.Helper()
	var file bytes.Buffer
	require.NoError(t, Write(&file, r))
	n, read := pdftest.Read(t, file.Bytes())
	assert.Equal(t, pages, n)
	return read
}
