package translate_test

import (
	"fmt"
	"math"
	"testing"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/plate"
	"tingate/core/translate"
	"tingate/formats/familyfile"
	against "tingate/testtools/check"
)

// Sizes of conductors as people write them; AWG by the diameters of the standard.
func TestSizesOfConductors(t *testing.T) {
	for text, want := range map[string]float64{"2.5 mm²": 2.5, "2,5mm2": 2.5, "16": 1.309, "16 sqmm": 16, "AWG 10": 5.261, "#14": 2.081,
		"4/0 AWG": 107.2, "1/0": 53.49, "8 awg": 8.367} {
		if text == "16" { // a bare number is read as mm²
			want = 16
		}
		against.Against(t, "a conductor written "+text+", mm²", "ASTM B258; NEC chapter 9, table 8", translate.Area(text), want, 1e-3)
	}
	for _, text := range []string{"", "thick", "AWG 99", "-2", "5/0", "2.5 mm² x"} {
		if v := translate.Area(text); !math.IsNaN(v) {
			t.Errorf("%q is read as %g mm²", text, v)
		}
	}
}

// A ramp in the units that people type, as a slope of the shaft.
func TestSlopes(t *testing.T) {
	for _, x := range []struct {
		typed   string
		highest float64
		poles   int
		want    float64
	}{{"8 s", 1455, 4, 181.875}, {"6 Hz/s", 1455, 4, 180}, {"6 Hz/s", 1455, 2, 360}, {"150 r/min/s", 1455, 4, 150}} {
		against.Against(t, x.typed+" as r/min/s", "120 f/p, by hand",
			translate.Slope(sample.Q("intent.rise", x.typed), x.highest, x.poles), x.want, 1e-9)
	}
	for _, x := range []struct {
		typed string
		poles int
	}{{"0", 4}, {"", 4}, {"6 Hz/s", 0}} {
		if v := translate.Slope(sample.Q("intent.rise", x.typed), 1455, x.poles); !math.IsNaN(v) {
			t.Errorf("%q with %d poles gives %g", x.typed, x.poles, v)
		}
	}
}

// A plate in horsepower keeps which horsepower it is; a row that nobody marked is in use when it is the only one.
func TestPlates(t *testing.T) {
	m := sample.Dryer().Motor
	row := m.Rows[sample.Star]
	row.Power = sample.Q("motor.rows."+sample.Star+".power", "10 hp")
	m.Rows = map[string]drivefile.Row{sample.Star: row}
	m.Linked = ""
	if translate.LinkedRow(m) != sample.Star {
		t.Error("the only row is not in use")
	}
	against.Against(t, "10 hp of a plate, W", "550 ft·lbf/s, NIST SP 811", translate.Plate(m).Row.Horsepower, 7457, 1e-4)
	m.HorsepowerKind = "metric"
	against.Against(t, "10 metric hp of it, W", "75 kgf·m/s, NIST SP 811", translate.Plate(m).Row.Horsepower, 7355, 1e-4)
	m.Rows["another"] = drivefile.Row{}
	if translate.LinkedRow(m) != "" || !math.IsNaN(translate.Plate(m).Row.Voltage) {
		t.Error("of two rows that nobody marked, one is in use")
	}
	m.Kind = "permanent-magnet"
	if translate.Plate(m).Kind != plate.PermanentMagnet {
		t.Error("the motor's kind is lost")
	}
	if name := translate.RowName(row); name != "star 400 V row" {
		t.Errorf("%q", name)
	}
}

// What the drive can give: the supply, twice that of a one-phase input of 120 V, never more than its label.
func TestTheOutput(t *testing.T) {
	s := translate.Site{Volts: 400, Known: true, Size: dialect.Size{Phases: 3, LineHigh: 480}, Label: math.NaN()}
	doubler := translate.Site{Volts: 120, Known: true, Size: dialect.Size{Phases: 1, LineHigh: 130}, Label: math.NaN()}
	one := translate.Site{Volts: 230, Known: true, Size: dialect.Size{Phases: 1, LineHigh: 240}, Label: math.NaN()}
	labelled := s
	labelled.Label = 230
	for _, x := range []struct {
		site translate.Site
		want float64
		says bool
	}{{s, 400, false}, {doubler, 240, true}, {one, 230, false}, {labelled, 230, true}} {
		if v, from := x.site.Output(); v != x.want || (from != "") != x.says {
			t.Errorf("%+v gives %g V %s", x.site, v, from)
		}
	}
}

// The supply of a drive is its mains, whatever else feeds it; what is not stated is NaN, never 0.
func TestTheSite(t *testing.T) {
	d, p := sample.Dryer(), sample.Place()
	p.Supplies["a0"] = drivefile.Supply{Name: "Heater", Kind: "heater", Voltage: sample.Q("rating.voltage", "230 V")}
	d.Supplies, d.Rating.Type = map[string]bool{"a0": true, "p1": true}, "TN4-016-F2K"
	s := translate.SiteOf(d, p, familyfile.Find("Tarn"))
	if s.Volts != 400 || !s.Named || !s.Known {
		t.Errorf("%+v", s)
	}
	d.Supplies = map[string]bool{"a0": true}
	if s = translate.SiteOf(d, p, nil); s.Named || !math.IsNaN(s.Volts) || s.Known {
		t.Errorf("a heater is no mains: %+v", s)
	}
	d.Rating.Current = drivefile.Q{}
	if s = translate.SiteOf(d, p, nil); !math.IsNaN(s.Rated) {
		t.Errorf("nobody states its current: %g", s.Rated)
	}
}

// A phase of the motor cable: 40 m of 2.5 mm² copper.
func TestTheCablesOhms(t *testing.T) {
	d := sample.Dryer()
	d.Site.Cable, d.Power.MotorArea = sample.Q("site.cable", "40 m"), "2.5 mm²"
	against.Against(t, "40 m of 2.5 mm² copper, Ω", "IEC 60364-5-52, annex G: 22.5 mΩ·mm²/m (36.8 % over 20 °C)", translate.CableOhms(d),
		40*.0225/2.5, .25)
	d.Power.MotorArea = "thick"
	if v := translate.CableOhms(d); v != 0 {
		t.Errorf("of a size that nobody can read: %g", v)
	}
}

func ExampleChain() {
	d := sample.Dryer()
	d.Intent.SpeedSource = "current"
	c, unit := translate.Chain(d)
	fmt.Printf("%g to %g %s give %g to %g r/min\n", c.Low, c.High, unit, c.SpeedLow, c.SpeedHigh)
	// Output: 4 to 20 mA give 0 to 1455 r/min
}
