package familyfile

import (
	"encoding/json"
	"reflect"
	"strings"

	"tingate/core/dialect"
)

// JSONSchema is the schema of a family's file, for editors that check while one types. What a schema cannot say (codes used
// once, values on the grid of a step) the reader checks.
func JSONSchema() []byte {
	s := schemaOf(reflect.TypeFor[dialect.Family]())
	s["$schema"], s["title"] = "https://json-schema.org/draft/2020-12/schema", "Tin Gate drive family"
	s["required"] = []string{"name", "version", "keypad", "groups", "settings"}
	b, _ := json.MarshalIndent(s, "", "  ") // maps and texts always marshal
	return append(b, '\n')
}

func schemaOf(t reflect.Type) map[string]any {
	switch t.Kind() {
	case reflect.Slice:
		list := map[string]any{"type": "array", "items": schemaOf(t.Elem())}
		if t == reflect.TypeFor[dialect.Words]() {
			return map[string]any{"oneOf": []any{map[string]any{"type": "string"}, list}}
		}
		return list
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": schemaOf(t.Elem())}
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Int, reflect.Int64, reflect.Uint, reflect.Uint16:
		return map[string]any{"type": "integer"}
	case reflect.Float64:
		return map[string]any{"type": "number"}
	case reflect.Struct:
		props := map[string]any{}
		for i := range t.NumField() {
			f := t.Field(i)
			name, _, _ := strings.Cut(f.Tag.Get("yaml"), ",")
			if name == "" || name == "-" {
				continue
			}
			p := schemaOf(f.Type)
			if d := f.Tag.Get("doc"); d != "" {
				p["description"] = d
			}
			props[name] = p
		}
		return map[string]any{"type": "object", "properties": props, "additionalProperties": false}
	}
	return map[string]any{"type": "string"}
}
