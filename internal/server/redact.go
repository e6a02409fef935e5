package server

import (
	"reflect"
	"sync"
)

// forMembers is an answer without what members do not see: fields with the tag staff, such as prices, reasons of
// leave and where files with secrets lie, have their zero values. What is answered may be shared, so what changes is
// copied.
func forMembers[O any](answer *O) *O {
	v := reflect.ValueOf(answer)
	if v.IsNil() || !hides(v.Type()) {
		return answer
	}
	return redacted(v).Interface().(*O)
}

// redacted is a value without what members do not see; the same where it has nothing of it.
func redacted(v reflect.Value) reflect.Value {
	if !hides(v.Type()) {
		return v
	}
	switch v.Kind() {
	case reflect.Pointer:
		if v.IsNil() {
			return v
		}
		out := reflect.New(v.Type().Elem())
		out.Elem().Set(redacted(v.Elem()))
		return out
	case reflect.Struct:
		out := reflect.New(v.Type()).Elem()
		out.Set(v) // unexported fields too
		for i := range v.NumField() {
			switch f := v.Type().Field(i); {
			case !f.IsExported():
			case f.Tag.Get("staff") != "" && f.Type.Kind() == reflect.Slice:
				out.Field(i).Set(reflect.MakeSlice(f.Type, 0, 0)) // a list stays a list
			case f.Tag.Get("staff") != "":
				out.Field(i).SetZero()
			default:
				out.Field(i).Set(redacted(v.Field(i)))
			}
		}
		return out
	case reflect.Slice:
		if v.IsNil() {
			return v
		}
		out := reflect.MakeSlice(v.Type(), v.Len(), v.Len())
		for i := range v.Len() {
			out.Index(i).Set(redacted(v.Index(i)))
		}
		return out
	case reflect.Map:
		if v.IsNil() {
			return v
		}
		out := reflect.MakeMapWithSize(v.Type(), v.Len())
		for each := v.MapRange(); each.Next(); {
			out.SetMapIndex(each.Key(), redacted(each.Value()))
		}
		return out
	}
	return v
}

var hiding sync.Map // whether a type has something that members do not see, by type

// hides reports whether a type has something that members do not see.
func hides(t reflect.Type) bool {
	if known, ok := hiding.Load(t); ok {
		return known.(bool)
	}
	found := hidesWithin(t, map[reflect.Type]bool{})
	hiding.Store(t, found)
	return found
}

func hidesWithin(t reflect.Type, seen map[reflect.Type]bool) bool {
	if seen[t] {
		return false // of the type that refers to itself: the rest of it decides
	}
	seen[t] = true
	switch t.Kind() {
	case reflect.Pointer, reflect.Slice, reflect.Map:
		return hidesWithin(t.Elem(), seen)
	case reflect.Struct:
		for i := range t.NumField() {
			f := t.Field(i)
			if f.IsExported() && (f.Tag.Get("staff") != "" || hidesWithin(f.Type, seen)) {
				return true
			}
		}
	}
	return false
}
