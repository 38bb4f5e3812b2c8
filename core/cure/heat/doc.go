// Package heat works out the temperature through a stack of layers that is heated from both faces, with the heat that
// its resin gives off and the degree of cure that it comes to: the heat equation in one dimension,
//
//	ρ c ∂T/∂t = ∂/∂x (k ∂T/∂x) + ρ w H ∂α/∂t
//
// in cells that exchange heat (finite volumes of second order), so that none is lost between them, and in time by an
// implicit method of third order whose steps follow its own error.
//
// SI units: metre, second, kelvin, watt. Layers are counted from the face below, x from there.
package heat
