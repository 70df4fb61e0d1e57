package formats

import (
	"encoding"
	"fmt"
	"reflect"
	"strings"
)

var textUnmarshaler = reflect.TypeFor[encoding.TextUnmarshaler]()

// checkTexts looks through a JSON value for texts that the type reads in a way of its
// own (dates, times of day, zones) and says, with their path, which cannot be read.
// The value has been held against the type's schema already.
func checkTexts(t reflect.Type, value any, path string, problems *Problems) {
	if value == nil {
		return
	}
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	if text, ok := value.(string); ok && reflect.PointerTo(t).Implements(textUnmarshaler) {
		if err := reflect.New(t).Interface().(encoding.TextUnmarshaler).UnmarshalText([]byte(text)); err != nil {
			problems.say(path, "%s", capital(err.Error())+".")
		}
		return
	}
	switch t.Kind() {
	case reflect.Slice:
		list, _ := value.([]any)
		for i, one := range list {
			checkTexts(t.Elem(), one, fmt.Sprintf("%s[%d]", path, i), problems)
		}
	case reflect.Struct:
		object, _ := value.(map[string]any)
		for i := range t.NumField() {
			name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
			at := name
			if path != "" {
				at = path + "." + name
			}
			checkTexts(t.Field(i).Type, object[name], at, problems)
		}
	}
}
