package gate

import (
	"encoding/json"
	"strings"

	"tingate/core/drivefile"
)

// labels are what intents and figures are called that differ in name from a field of the documents.
var labels = map[string]string{"load_pattern": "Volts pattern", "reference_signal": "Reference signal", "line_frequency": "Supply frequency"}

// Label is what a path, or an intent by its name alone, is called on the screens.
func Label(path string) string {
	if l, ok := labels[path]; ok {
		return l
	}
	if strings.Contains(path, ".") {
		return drivefile.Label(path)
	}
	for _, in := range []string{"intent.", "motor.rows.x.", "motor.", "rating.", ""} {
		if full := in + path; drivefile.Label(full) != drivefile.Label("x."+path) {
			return drivefile.Label(full)
		}
	}
	return drivefile.Label(path)
}

func quantityAt(raw json.RawMessage) (q drivefile.Q) {
	_ = json.Unmarshal(raw, &q) // a stored quantity always reads; anything else has no value
	return q
}

func decode(raw json.RawMessage, to any) bool { return json.Unmarshal(raw, to) == nil }
