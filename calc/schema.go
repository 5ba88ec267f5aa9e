package calc

import (
	"encoding/json"
	"reflect"
	"strings"
)

// Schema is the JSON Schema of both sides of a computation; ok is false for an unknown name.
func Schema(name string) (schema []byte, ok bool) {
	c, ok := computations[name]
	if !ok {
		return nil, false
	}
	b, _ := json.MarshalIndent(map[string]any{
		"$schema": "https://json-schema.org/draft/2020-12/schema",
		"title":   name, "description": c.about,
		"$defs": map[string]any{"input": typeSchema(reflect.TypeOf(c.in()).Elem(), true),
			"output": typeSchema(reflect.TypeOf(c.out), false),
			"error":  typeSchema(reflect.TypeOf(Error{}), false)},
	}, "", "  ")
	return b, true
}

func typeSchema(t reflect.Type, strict bool) map[string]any {
	nullable := false
	if t.Kind() == reflect.Pointer {
		t, nullable = t.Elem(), true
	}
	s := map[string]any{}
	switch t.Kind() {
	case reflect.Struct:
		props := map[string]any{}
		for _, f := range members(t) {
			p := typeSchema(f.Type, strict)
			if d := f.Tag.Get("doc"); d != "" {
				p["description"] = d
			}
			if e := f.Tag.Get("enum"); e != "" {
				list := []any{}
				for _, v := range strings.Split(e, ",") {
					list = append(list, v)
				}
				if strict {
					list = append(list, nil)
				}
				p["enum"] = list
			}
			props[jsonName(f)] = p
		}
		s["type"], s["properties"] = "object", props
		if strict {
			s["additionalProperties"] = false
		}
	case reflect.Slice:
		s["type"], s["items"] = "array", typeSchema(t.Elem(), strict)
	case reflect.Float64:
		s["type"] = "number"
	case reflect.Int:
		s["type"] = "integer"
	case reflect.Bool:
		s["type"] = "boolean"
	default:
		s["type"] = "string"
	}
	if typ, ok := s["type"].(string); ok && (nullable || strict) {
		s["type"] = []any{typ, "null"}
	}
	return s
}
