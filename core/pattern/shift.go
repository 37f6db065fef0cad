package pattern

import (
	"reflect"
	"slices"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/form"
)

// Moved is a date that was moved with a copied round's closing.
type Moved struct {
	What     string // the moment, question, code … it belongs to
	From, To calendar.Date
}

// Shift moves every date of a copied design by the days between its old closing
// and the new one: those of the calendar, of limits, conditions, letters, codes.
// Moments of the calendar that fall on a day off move on to the next working
// day. The day of a list's version stays: it says which list it is. off may be
// nil. It is called before the dates that were set anew are put in.
func Shift(d *form.Design, closing calendar.Date, off func(calendar.Date) bool) (moved []Moved) {
	old, _ := d.Moment(form.Closes)
	days := int(closing - old.At.Date)
	if days == 0 {
		return nil
	}
	sh := shifter{days: days, off: off}
	sh.walk(reflect.ValueOf(d).Elem(), "the round", false)
	return sh.moved
}

type shifter struct {
	days  int
	off   func(calendar.Date) bool
	moved []Moved
}

var (
	wallType = reflect.TypeFor[calendar.Wall]()
	dateType = reflect.TypeFor[calendar.Date]()
	listType = reflect.TypeFor[form.List]()
)

// walk goes through everything a design holds; what names the thing that a date
// stands in.
func (s *shifter) walk(v reflect.Value, what string, moment bool) {
	switch {
	case v.Type() == wallType:
		w := v.Addr().Interface().(*calendar.Wall)
		if !w.IsZero() {
			w.Date = s.move(w.Date, what, moment)
		}
		return
	case v.Type() == dateType:
		d := v.Addr().Interface().(*calendar.Date)
		if !d.IsZero() {
			*d = s.move(*d, what, false)
		}
		return
	case v.Type() == listType:
		return
	}
	switch v.Kind() {
	case reflect.Pointer:
		if !v.IsNil() {
			s.walk(v.Elem(), what, moment)
		}
	case reflect.Slice:
		for i := range v.Len() {
			s.walk(v.Index(i), what, moment)
		}
	case reflect.Struct:
		for _, name := range []string{"Label", "Code"} {
			if f := v.FieldByName(name); f.IsValid() && f.Kind() == reflect.String && f.String() != "" {
				what = "“" + strings.TrimSuffix(f.String(), "?") + "”"
				break
			}
		}
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				s.walk(v.Field(i), what, moment || v.Type() == reflect.TypeFor[form.Moment]())
			}
		}
	}
}

func (s *shifter) move(d calendar.Date, what string, moment bool) calendar.Date {
	to := d.AddDays(s.days)
	if moment && calendar.IsWorkingDay(d, s.off) && !calendar.IsWorkingDay(to, s.off) {
		to = calendar.AddWorkingDays(to, 1, s.off)
	}
	if m := (Moved{what, d, to}); !slices.Contains(s.moved, m) {
		s.moved = append(s.moved, m)
	}
	return to
}
