// Package device drives the shop's outside equipment.
//
// An oven is a Modbus TCP device: [Dial] reads its state in one request and writes its set points; the register layout
// stands in docs/operations.md. A part's sensor that fails reads as NaN, never as a number.
//
// A cutting table speaks the lines of docs/table.md over TCP ([DialTable]): a program is loaded line by line with a
// check sum, started, asked how far it is, and stopped. Climate loggers speak MQTT ([ListenClimate]).
//
// It carries bytes and has no rules: what a reading means is for core and shop. The stand-ins of device/sim speak the
// same protocols, and nothing here knows whether it speaks with one.
package device
