// Package sim holds the stand-ins for outside equipment that ship with Juxta.
package sim
