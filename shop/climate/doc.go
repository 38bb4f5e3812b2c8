// Package climate is the air that material lies in: sensors, what they read, and their alarms.
//
// A sensor measures a freezer or the room. Readings come by MQTT (work/climate.go), perhaps twice and out of order. One
// in the future is refused; a value that no freezer or room can have is dropped as a fault of the sensor, so that it
// ages nothing and calms nothing.
//
// An alarm begins when a freezer is warmer than its limit or a sensor falls silent, and is over when it is cold again
// or speaks; it stays in sight until a person acknowledges it with what they found. That a freezer failed, by which
// what lay in it ages, is for a person to say (shop/stock): a sensor can be wrong.
//
// [RoomConditions] is the air of the room as measured last: above its dew point a bag may be opened.
package climate
