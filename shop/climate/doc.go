// Package climate is the air that material lies in: sensors, what they read, and their alarms.
package climate
