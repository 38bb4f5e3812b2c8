package unit

import "fmt"

// Between says why limits of one value contradict each other, or nil: the least
// lies above the most, or the target outside. A limit that is nil is none.
func Between(least, target, most *float64) error {
	switch {
	case least != nil && most != nil && *least > *most:
		return fmt.Errorf("the minimum, %g, is above the maximum, %g", *least, *most)
	case target != nil && least != nil && *target < *least:
		return fmt.Errorf("the target, %g, is below the minimum, %g", *target, *least)
	case target != nil && most != nil && *target > *most:
		return fmt.Errorf("the target, %g, is above the maximum, %g", *target, *most)
	}
	return nil
}
