package drivefile

import (
	"strings"
)

// called are what intents and figures are called that differ in name from a field of the documents.
var called = map[string]string{"load_pattern": "Volts pattern", "reference_signal": "Reference signal",
	"line_frequency": "Supply frequency"}

// Called is what a path, or an intent by its name alone, is called on the screens.
func Called(path string) string {
	if l, ok := called[path]; ok {
		return l
	}
	if strings.Contains(path, ".") {
		return Label(path)
	}
	for _, in := range []string{"intent.", "motor.rows.x.", "motor.", "rating.", ""} {
		if full := in + path; Label(full) != Label("x."+path) {
			return Label(full)
		}
	}
	return Label(path)
}
