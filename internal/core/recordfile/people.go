package recordfile

import (
	"reflect"
	"strings"
)

// RenamePeople gives every name of a person in the file to rename and puts what that
// answers in its place. Names stand in fields whose own names end in By.
func (f *File) RenamePeople(rename func(string) string) { renameIn(reflect.ValueOf(f), rename) }

func renameIn(v reflect.Value, rename func(string) string) {
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if !v.IsNil() {
			renameIn(v.Elem(), rename)
		}
	case reflect.Slice, reflect.Array:
		if v.Type().Elem().Kind() == reflect.Uint8 {
			return // bytes of a picture or a document
		}
		for i := range v.Len() {
			renameIn(v.Index(i), rename)
		}
	case reflect.Struct:
		for i := range v.NumField() {
			field := v.Type().Field(i)
			if !field.IsExported() {
				continue
			}
			if field.Type.Kind() == reflect.String && strings.HasSuffix(field.Name, "By") && v.Field(i).CanSet() {
				if name := v.Field(i).String(); name != "" {
					v.Field(i).SetString(rename(name))
				}
				continue
			}
			renameIn(v.Field(i), rename)
		}
	}
}
