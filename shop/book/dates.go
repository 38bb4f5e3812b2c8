package book

import (
	"reflect"
	"strings"
	"time"
)

// The years that a date of a workshop can lie in; what lies outside is a slip of
// the hand, and the last of them would not even stand in JSON everywhere.
const firstYear, lastYear = 1970, 2199

// DatesIn refuses an input with a date outside of what a workshop can mean.
func DatesIn(input any) error {
	return datesOf(reflect.ValueOf(input), "")
}

func datesOf(v reflect.Value, field string) error {
	if !v.IsValid() {
		return nil
	}
	if t, is := v.Interface().(time.Time); is {
		if y := t.UTC().Year(); !t.IsZero() && (y < firstYear || y > lastYear) {
			return WrongTime.At(field, "%d is no year for this: a date from %d to %d is needed", y, firstYear, lastYear)
		}
		return nil
	}
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		return datesOf(v.Elem(), field)
	case reflect.Slice, reflect.Array:
		if k := v.Type().Elem().Kind(); k <= reflect.Complex128 || k == reflect.String {
			return nil // a picture, or many numbers
		}
		for i := range v.Len() {
			if err := datesOf(v.Index(i), field); err != nil {
				return err
			}
		}
	case reflect.Struct:
		for i := range v.NumField() {
			f := v.Type().Field(i)
			if !f.IsExported() {
				continue
			}
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			if name == "" {
				name = field
			}
			if err := datesOf(v.Field(i), name); err != nil {
				return err
			}
		}
	}
	return nil
}
