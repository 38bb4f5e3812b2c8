// Package sim holds the stand-ins for outside equipment that ship with Juxta.
//
// They speak the protocols of the real ones, on loopback, and Juxta cannot tell them apart:
//
//   - [Server] is an oven behind Modbus TCP ([Oven] is its heat: air, tool and part with time constants of its own, not
//     those of the forecast). Its clock may run faster than the wall's, and may wait for its reader.
//   - [Logger] is a climate logger with an MQTT broker of its own; [Climate] is the air that it reads.
//   - [Table] is a cutting table behind the lines of docs/table.md. It moves by milliseconds and knows nothing of the
//     times that core/cutpath foretells; a test holds the two together.
//
// Faults can be asked for: sensors that fall silent, drift, jump or send garbage, a freezer that warms, a table that is
// stopped, lifts a corner, or loses its program. The same seed gives the same noise.
package sim
