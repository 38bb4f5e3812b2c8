// Package gcode writes and reads the way of a pen and a knife as words of ISO 6983.
//
// G0 lifted, G1 down, X and Y in mm from the start of the table's lower edge, Z 5 lifted and Z 0 down, T1 M6 the pen,
// T2 M6 the knife, M60 the cloth advances by a table's length, M30 the end. Lines are numbered (N). A comment (PLY id)
// says whose the strokes after it are, (FREE id) that the piece is cut free. With a tangential knife C is its direction
// in degrees from +X, anticlockwise, and goes on beyond ±180° rather than turn back.
//
// The reader is the simulated table's and the tests': it takes the words that the writer writes, refuses others by
// line, and is bounded in length. Tests also have the program read by a reader that is not ours.
package gcode
