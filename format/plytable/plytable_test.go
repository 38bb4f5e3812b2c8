package plytable

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const good = "ply,material,angle,outline,face,x,y\n1,Sable UD 150,45,full,,,\n2,Sable UD 150,-45°,full,down,10,-2.5\n"

func TestReadsATable(t *testing.T) {
	rows, faults := Read([]byte(good))
	require.Empty(t, faults)
	assert.Equal(t, []Row{
		{Line: 2, Material: "Sable UD 150", Outline: "full", AngleDeg: 45, FaceUp: true},
		{Line: 3, Material: "Sable UD 150", Outline: "full", AngleDeg: -45, X: 0.01, Y: -0.0025},
	}, rows)
}

func TestSemicolonsTabsAndByteOrderMarks(t *testing.T) {
	for _, sep := range []string{";", "\t"} {
		rows, faults := Read([]byte("\xef\xbb\xbf" + strings.ReplaceAll(good, ",", sep)))
		require.Empty(t, faults)
		assert.Len(t, rows, 2)
	}
}

func TestFaultsNameTheirRows(t *testing.T) {
	for says, file := range map[string]string{
		"neither a CSV text file":                      "",
		"row 1: the column \"angle\" is missing":       "material,outline\nA,b\n",
		"row 1: column \"colour\" is not known":        "material,angle,outline,colour\n",
		"row 3: angle: \"north\" is not a number":      "material,angle,outline\nA,0,f\nA,north,f\n",
		"row 2: no material":                           "material,angle,outline\n,0,f\n",
		"row 2: face is up or down, not \"sideways\"":  "material,angle,outline,face\nA,0,f,sideways\n",
		"row 3: this is ply 2, the table calls it \"3": "ply,material,angle,outline\n1,A,0,f\n3,A,0,f\n",
		"row 2: the table has no plies":                "material,angle,outline\n",
		"this is neither a CSV text file":              "PK\x03\x04\x00\x00",
		"row 2: x: \"1,234\" may mean 1234 or 1.234":   "material;angle;outline;x\nA;0;f;1,234\n",
		"row 2: \"361\" is not an angle in degrees":    "material,angle,outline\nA,361,f\n",
		"this text is in UTF-16":                       "\xff\xfem\x00a\x00",
		"not in UTF-8":                                 "material,angle,outline\nS\xe4ble,0,f\n",
		"row 502: more than 500":                       "material,angle,outline\n" + strings.Repeat("A,0,f\n", 501),
	} {
		rows, faults := Read([]byte(file))
		assert.Nil(t, rows, says)
		require.NotEmpty(t, faults, says)
		assert.Contains(t, faults[0], says)
	}
}

func TestFaultsAreNamedUpToABound(t *testing.T) {
	_, faults := Read([]byte("material,angle,outline\n" + strings.Repeat("A,north,f\n", 400)))
	assert.Len(t, faults, MaxFaults+1)
	assert.Equal(t, "and more: put these right first", faults[MaxFaults])
}

func TestACommaIsAFraction(t *testing.T) {
	rows, faults := Read([]byte("material;angle;outline;x\nA;22,5;f;12,25\n"))
	require.Empty(t, faults)
	assert.InDelta(t, 22.5, rows[0].AngleDeg, 1e-12)
	assert.InDelta(t, 0.01225, rows[0].X, 1e-12)
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(good))
	f.Add([]byte("material;angle;outline\n\"A;0;f\n"))
	f.Add([]byte("material,angle,outline,x\nA,1e400,f,NaN\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		rows, faults := Read(raw)
		if len(faults) == 0 && len(rows) == 0 || len(faults) > 0 && rows != nil {
			t.Fatal("either rows or faults")
		}
		for _, r := range rows {
			if r.Material == "" || r.Outline == "" || r.AngleDeg != r.AngleDeg {
				t.Fatalf("a row that is none: %+v", r)
			}
		}
	})
}
