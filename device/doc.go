// Package device drives the shop's outside equipment. An oven is a Modbus TCP
// device; docs/operations.md has its register layout.
//
// A cutting table speaks the lines of docs/table.md over TCP; climate loggers speak MQTT. The
// stand-ins in device/sim speak the same protocols.
package device
