// Package cutpath is the way of the pen and the knife over a nest.
//
// Marks on the backing come first, then cuts, what lies within before what is round it, lines that two plies share
// once, lifted as little as may be, and never through a ply that is kept. text.go has the letters of the pen, rule.go
// the straight cuts of who cuts by hand.
//
// time.go tells how long it takes, by the same motion that any table has (speed, acceleration, how fast a corner is
// passed). The simulated table of device/sim knows nothing of this package and moves by milliseconds; both agree to 2
// %.
//
// format/gcode writes and reads the program.
package cutpath
