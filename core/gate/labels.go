package gate

import (
	"encoding/json"
	"strings"

	"tingate/core/drivefile"
)

var labels = map[string]string{
	"voltage": "Motor voltage", "frequency": "Motor frequency", "power": "Motor power", "current": "Motor current", "speed": "Motor speed", "power_factor": "cos φ",
	"poles": "Poles", "efficiency": "Efficiency", "service_factor": "Service factor", "ambient": "Ambient", "rating.current": "Drive rated current", "rating.voltage": "Drive output voltage",
	"motor.speed": "Motor speed", "load_torque": "Load torque", "load_inertia": "Load inertia", "inertia_band": "Band of the inertia", "lowest_speed": "Lowest speed", "highest_speed": "Highest speed", "rise": "Rise", "fall": "Fall", "stop_mode": "Stop mode",
	"control": "Control", "slip_compensation": "Slip compensation", "load_pattern": "Volts pattern", "direction": "Directions", "overload_class": "Overload class", "current_limit": "Current limit",
	"automatic_restart": "Automatic restart", "command_source": "Run command from", "speed_source": "Speed from", "reference_low": "Speed at low end", "reference_high": "Speed at high end",
	"reference_loss": "Reference lost", "reference_signal": "Reference signal", "jog": "Jog speed", "loop_at_top": "Measured value at highest speed", "loop_grows": "Measured value grows with", "loop_lag": "Measured value follows after", "pot_time": "Faster and slower, to highest", "pot_keeps": "Faster and slower, kept", "preset_1": "Preset 1", "preset_2": "Preset 2", "preset_3": "Preset 3",
	"torque_off_shows": "Torque off shows as", "line_frequency": "Supply frequency", "load": "Load", "per_turn": "Travel for a turn", "lines": "Encoder lines", "turn.speed": "Speed of the first turn", "dialect": "Drive family", "dialect_version": "Version of the family file", "pattern": "Volts pattern",
}

// Label is what a path is called on the screens.
func Label(path string) string {
	if l, ok := labels[path]; ok {
		return l
	}
	last := path[strings.LastIndex(path, ".")+1:]
	if l, ok := labels[last]; ok {
		return l
	}
	return strings.ReplaceAll(last, "_", " ")
}

func quantityAt(raw json.RawMessage) (q drivefile.Q) {
	_ = json.Unmarshal(raw, &q) // a stored quantity always reads; anything else has no value
	return q
}

func decode(raw json.RawMessage, to any) bool { return json.Unmarshal(raw, to) == nil }
