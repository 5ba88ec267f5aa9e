package drivefile

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
)

// NewerSchemaError refuses a document made by a newer program.
type NewerSchemaError struct{ Got, Known int }

func (e *NewerSchemaError) Error() string {
	return fmt.Sprintf("schema: got %d, want at most %d; a newer Tin Gate wrote it", e.Got, e.Known)
}

// steps turn a body of schema n (the index) into n+1. They are pure, and are kept for ever.
var steps = map[int]func(kind string, b Body) Body{
	1: func(_ string, b Body) Body { return b }, // 2 adds practice, site, and what supplies are: all of it may be missing
	2: func(_ string, b Body) Body { return b }, // 3 adds the first turn: all of it may be missing
	3: numbersStay,                              // 4 adds stop circuits, which may be missing, and numbers of wires by function
	// 5 adds terminals' torques, what bounds a speed, more of stop circuits, the controller's side: all of it may be missing
	4: func(_ string, b Body) Body { return b },
	5: func(_ string, b Body) Body { return b }, // 6 adds the motor potentiometer, which may be missing
	6: kindOfPlace,                              // 7 adds the kind of a place, its instruments, and serials that are not legible
	// 8 adds permit and arc energy, the encoder's data, no stop circuit, safety functions inside: all of it may be missing
	7: func(_ string, b Body) Body { return b },
	8: func(_ string, b Body) Body { return b }, // 9 adds friction beside a load, restarts at most: both may be missing
	// 10 adds name, network, what is lost below, magnetising, ramps by themselves, when the brake moves: all of it may be missing
	9: func(_ string, b Body) Body { return b },
}

// DemoPlant is the name of the plant that ships with the program. Nothing in it was ever measured.
const DemoPlant = "Skerrow Kelp Works"

// kindOfPlace makes the places of before real, and the demo's simulated.
func kindOfPlace(kind string, b Body) Body {
	if kind == KindPlace {
		b["kind"] = Real
		if b["name"] == DemoPlant {
			b["kind"] = Simulated
		}
	}
	return b
}

// numbersStay keeps the numbers of wires that a drive was wired by.
func numbersStay(kind string, b Body) Body {
	if w, ok := b["wiring"].(map[string]any); ok && kind == KindDrive && w["command"] != nil {
		w["numbers"] = "running"
	}
	return b
}

// Upgrade brings a stored body to the present schema.
func Upgrade(kind string, raw []byte) ([]byte, error) {
	var head struct {
		Schema int `json:"schema"`
	}
	if err := json.Unmarshal(raw, &head); err != nil {
		return nil, err
	}
	if head.Schema > Schema {
		return nil, &NewerSchemaError{head.Schema, Schema}
	}
	if head.Schema < 1 {
		return nil, &FieldError{"schema", fmt.Sprint(head.Schema), "1 or more"}
	}
	for n := head.Schema; n < Schema; n++ {
		b, err := ParseBody(raw)
		if err != nil {
			return nil, err
		}
		b = steps[n](kind, b)
		b["schema"] = n + 1
		raw = b.JSON()
	}
	return raw, nil
}

// JSONSchema publishes the schema of a kind of document, as docs/formats and the bundle carry it.
func JSONSchema(kind string) []byte {
	t := reflect.TypeOf(Drive{})
	if kind == KindPlace {
		t = reflect.TypeOf(Place{})
	}
	s := typeSchema(t)
	s["$schema"], s["title"] = "https://json-schema.org/draft/2020-12/schema", "Tin Gate "+kind+", schema "+fmt.Sprint(Schema)
	b, _ := json.MarshalIndent(s, "", "  ")
	return append(b, '\n')
}

func typeSchema(t reflect.Type) map[string]any {
	switch t.Kind() {
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": typeSchema(t.Elem())}
	case reflect.Pointer:
		return typeSchema(t.Elem())
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Int:
		return map[string]any{"type": "integer"}
	case reflect.Float64:
		return map[string]any{"type": "number"}
	case reflect.Struct:
		props, required := map[string]any{}, []string{}
		for i := 0; i < t.NumField(); i++ {
			f := t.Field(i)
			n, opt, _ := strings.Cut(f.Tag.Get("json"), ",")
			p := typeSchema(f.Type)
			if d := f.Tag.Get("doc"); d != "" {
				p["description"] = d
			}
			if k := f.Tag.Get("kind"); k != "" {
				p["x-quantity"] = k
			}
			if c := f.Tag.Get("choices"); c != "" {
				p["enum"] = strings.Split(c, ",")
			}
			props[n] = p
			if opt == "" {
				required = append(required, n)
			}
		}
		return map[string]any{"type": "object", "properties": props, "required": required, "additionalProperties": false}
	}
	return map[string]any{"type": "string"}
}
