package laminate_test

import (
	"fmt"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/unit"
)

var carbon = laminate.Lamina{
	E1:         125e9,
	E2:         8.5e9,
	Nu12:       0.3,
	G12:        4.4e9,
	Alpha1:     0.1e-6,
	Alpha2:     30e-6,
	Thickness:  0.143e-3,
	ArealMass:  0.234,
	ResinShare: 0.36,
}

// stack lays a stacking code in one material.
func stack(code string) []laminate.Ply {
	plies, err := laminate.ReadCode(code)
	if err != nil {
		panic(err)
	}
	var out []laminate.Ply
	for i, p := range plies {
		out = append(
			out,
			laminate.Ply{
				Name:     fmt.Sprint(i + 1),
				Material: "carbon",
				Lamina:   carbon,
				Angle:    unit.Rad(p.AngleDeg),
				FaceUp:   !p.Mirrored,
			},
		)
	}
	return out
}

// A code that cannot be read points at its character.
func ExampleReadCode() {
	plies, _ := laminate.ReadCode("[0/±45~]s")
	fmt.Println(len(plies))
	plies, _ = laminate.ReadCode("0/45/-45/90 s")
	fmt.Println(len(plies), plies[7])
	_, err := laminate.ReadCode("0/45/x")
	fmt.Println(err)
	// Output:
	// 0
	// 8 {0 true}
	// character 6: 'x' is not an angle
}

// A symmetric stack stays flat as it cools; one ply more warps it.
func ExampleWarpOf() {
	for _, code := range []string{"[0/45/-45/90]s", "0/45/-45/90/90/-45/45/0/0"} {
		w, _ := laminate.WarpOf(stack(code), -100, 1)
		fmt.Printf("%.1f mm\n", w.Bow*1e3)
	}
	// Output:
	// 0.0 mm
	// 94.3 mm
}

// What a pull of 100 N/mm does to a quasi-isotropic laminate.
func ExampleStresses() {
	strength := map[string]laminate.Strength{"carbon": {XT: 1900e6, XC: 1100e6, YT: 48e6, YC: 190e6, S: 80e6}}
	all, _ := laminate.Stresses(stack("[0/45/-45/90]s"), strength, laminate.Load{N: [3]float64{100e3, 0, 0}})
	first, _ := laminate.FirstPly(all)
	fmt.Printf("ply %s fails first, by %s, at %.1f times the load\n", first.Ply, first.Mode, first.Reserve)
	// Output:
	// ply 4 fails first, by tension across, at 3.0 times the load
}

// Two plies over each other in a part make three zones.
func ExampleZones() {
	s := stack("0/90")
	zones, _ := laminate.Zones([]laminate.PlacedPly{
		{Ply: s[0], Outline: geom.Rect(0.4, 0.3)},
		{Ply: s[1], Outline: geom.Rect(0.4, 0.3).Move(0.3, 0)},
	})
	for _, z := range zones {
		fmt.Printf("%.2f m² of plies %v\n", z.Area, z.Plies)
	}
	// Unordered output:
	// 0.09 m² of plies [0]
	// 0.09 m² of plies [1]
	// 0.03 m² of plies [0 1]
}
