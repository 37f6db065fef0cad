package web

import (
	"reflect"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/control"
	"ulvant/internal/web/kit/view"
)

// example fills a value of a type: a word in every text, a one in every number,
// one element in every list, and so on as deep as depth goes. Interfaces and
// functions stay nil.
func example(t reflect.Type, depth int) reflect.Value {
	v := reflect.New(t).Elem()
	if t == reflect.TypeFor[time.Time]() {
		v.Set(reflect.ValueOf(time.Date(2027, 3, 2, 12, 0, 0, 0, time.UTC)))
		return v
	}
	if t == reflect.TypeFor[*time.Location]() {
		v.Set(reflect.ValueOf(time.UTC))
		return v
	}
	if t == reflect.TypeFor[control.As]() {
		v.SetString(string(control.Line))
		return v
	}
	switch t.Kind() {
	case reflect.String:
		v.SetString("example")
	case reflect.Bool:
		v.SetBool(true)
	case reflect.Int, reflect.Int8, reflect.Int16, reflect.Int32, reflect.Int64:
		v.SetInt(1)
	case reflect.Uint8, reflect.Uint16, reflect.Uint32, reflect.Uint64, reflect.Uint:
		v.SetUint(1)
	case reflect.Float32, reflect.Float64:
		v.SetFloat(1)
	}
	if depth == 0 {
		return v
	}
	switch t.Kind() {
	case reflect.Pointer:
		v.Set(reflect.New(t.Elem()))
		v.Elem().Set(example(t.Elem(), depth-1))
	case reflect.Slice:
		one := example(t.Elem(), depth-1)
		v.Set(reflect.Append(v, one, one)) // two, so that the one in every number is the place of one

	case reflect.Array:
		for i := range v.Len() {
			v.Index(i).Set(example(t.Elem(), depth-1))
		}
	case reflect.Map:
		v.Set(reflect.MakeMap(t))
		v.SetMapIndex(example(t.Key(), depth-1), example(t.Elem(), depth-1))
	case reflect.Struct:
		for i := range v.NumField() {
			if f := v.Field(i); f.CanSet() {
				f.Set(example(f.Type(), depth-1))
			}
		}
	}
	return v
}

// Every page stands beside its type, and draws a value of it: one with nothing
// in it where a page may be so, and one with something everywhere.
func TestEveryPageDrawsItsType(t *testing.T) {
	views, err := view.New(func(name string) string { return name }, Folders())
	if err != nil {
		t.Fatal(err)
	}
	views.Strict()
	for _, room := range Rooms {
		for page := range room.Values {
			if views.Value(room.Name+"/"+page) == nil {
				t.Errorf("%s/%s has a value and no template", room.Name, page)
			}
		}
	}
	for _, name := range views.Names() {
		t.Run(name, func(t *testing.T) {
			value := views.Value(name)
			if value == nil {
				t.Fatal("its room does not say what it draws")
			}
			draw := func(data any) error {
				_, err := views.Page(name, view.Page{Title: "A page", Data: data, Who: "Wenna Astley", Office: true,
					Now:    time.Date(2027, 3, 2, 12, 0, 0, 0, time.UTC),
					Allows: func(access.Action) bool { return true }})
				return err
			}
			if err := draw(example(reflect.TypeOf(value), 9).Interface()); err != nil {
				t.Errorf("with something everywhere: %v", err)
			}
			if err := draw(struct{ Nothing int }{}); err == nil {
				t.Error("it takes a value of another type")
			}
		})
	}
}
