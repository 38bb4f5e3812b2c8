package pdf

import (
	"bytes"
	"fmt"
	"io"
	"testing"

	reader "github.com/ledongthuc/pdf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestARecordOpensInAnotherReaderWithAllItsRows(t *testing.T) {
	r := Record{Title: "As-built record", Subtitle: "Panel, 45° and 0.5 mm²", Foot: "B-4KD7Q", Sections: []Section{
		{Heading: "Layup", Notes: []string{"Counted."}, Columns: []Column{{Name: "Ply", Share: 0.2, Right: true}, {Name: "Signed", Share: 0.8}}},
		{Heading: "Nothing", Columns: []Column{{Name: "Empty", Share: 1}}},
	}}
	for i := range 120 {
		r.Sections[0].Rows = append(r.Sections[0].Rows, []string{fmt.Sprint(i + 1), fmt.Sprintf("hand %d", i+1)})
	}
	var file bytes.Buffer
	require.NoError(t, Write(&file, r))
	doc, err := reader.NewReader(bytes.NewReader(file.Bytes()), int64(file.Len()))
	require.NoError(t, err)
	assert.Equal(t, 3, doc.NumPage())
	plain, err := doc.GetPlainText()
	require.NoError(t, err)
	raw, err := io.ReadAll(plain)
	require.NoError(t, err)
	for _, says := range []string{"As-built record", "hand 1", "hand 120", "nothing recorded", "B-4KD7Q", "3 / 3"} {
		assert.Contains(t, string(raw), says)
	}
}
