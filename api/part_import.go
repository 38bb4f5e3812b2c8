package api

import (
	"errors"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/format/dxf"
	"juxta/format/plytable"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// importBody carries the two files as text.
type importBody struct {
	Number       string `json:"number" minLength:"1" maxLength:"40" doc:"Drawing number"`
	Name         string `json:"name" maxLength:"80"`
	PlyTable     string `json:"plyTable,omitempty" maxLength:"1000000" doc:"CSV"`
	PlyTableXLSX string `json:"plyTableXlsx,omitempty" maxLength:"8000000" doc:"XLSX in base64, instead of the CSV"`
	Drawing      string `json:"drawing" maxLength:"20000000" doc:"DXF in text form"`
	Unit         string `json:"unit,omitempty" enum:"mm,inch" doc:"Of a drawing that does not say its own"`
}

// stackRead is what a stacking code says, or where it does not.
type stackRead struct {
	Plies   []codedPly `json:"plies"`
	At      *int       `json:"at,omitempty" doc:"Character that is wrong, from 0"`
	Message string     `json:"message,omitempty"`
}

type codedPly struct {
	AngleDeg float64 `json:"angleDeg"`
	Mirrored bool    `json:"mirrored"`
}

func readStack(code string) stackRead {
	out := stackRead{Plies: []codedPly{}}
	plies, err := laminate.ReadCode(code)
	var fault *laminate.CodeError
	if errors.As(err, &fault) {
		out.At, out.Message = &fault.At, fault.Message
	}
	for _, p := range plies {
		out.Plies = append(out.Plies, codedPly(p))
	}
	return out
}

// readPart reads both files; the faults of both come together, each with the
// file it is in.
func readPart(in importBody) (parts.Import, error) {
	table, err := tableOf(in)
	if err != nil {
		return parts.Import{}, err
	}
	rows, faults := plytable.Read(table)
	for i := range faults {
		faults[i] = "ply table, " + faults[i]
	}
	drawing, wrong := dxf.Read([]byte(in.Drawing), unitOfDrawing(in.Unit))
	for _, w := range wrong {
		faults = append(faults, "drawing, "+w)
	}
	if len(faults) > 0 {
		return parts.Import{}, &book.Error{
			Rule:    book.Faults,
			Field:   "files",
			Message: "the files have faults: nothing was stored",
			Details: faults,
		}
	}
	out := parts.Import{Number: in.Number, Name: in.Name, Outlines: map[string]geom.Ring{}}
	for _, row := range rows {
		out.Plies = append(
			out.Plies,
			parts.ImportPly{
				Row:      row.Line,
				Material: row.Material,
				AngleDeg: row.AngleDeg,
				Layer:    row.Outline,
				FaceUp:   row.FaceUp,
				X:        row.X,
				Y:        row.Y,
			},
		)
	}
	for _, o := range drawing.Outlines {
		out.Outlines[o.Name] = o.Ring
	}
	return out, nil
}
