package translate

import (
	"fmt"
	"math"
	"slices"

	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/drivefile"
	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/core/plate"
	"tingate/core/quantity"
)

// Figures are a drive's own figures as a simulation needs them. What nobody has said is assumed, and Assumed says so.
type Figures struct {
	Motor    machine.Plate
	Size     dialect.Size
	Line, Hz float64
	Single   bool
	Load     motion.Load
	LoadJ    float64 // kg·m² at the motor's shaft
	Band     float64 // share by which LoadJ may be off: from LoadJ/(1+Band) to LoadJ·(1+Band)
	// TorqueStated: a person said what the load takes.
	TorqueStated bool
	// WithoutEncoder: one is planned, and the drive has not been given its lines yet.
	WithoutEncoder bool

	Own      bool
	Magnet   bool // permanent magnets
	Backstop bool
	Brake    drive.Brake
	Process  drive.Process
	Texts    map[string]string `json:"-"` // of the settings that hold one, by code; a ride does not rest on them
	Settings map[string]int64  // as planned, by code; the rest as delivered
	Assumed  []string
	Linked   string // how the row in use is linked: star, delta, …
	Missing  string // what is needed before anything can be simulated
}

// InertiaAssumed begins the assumption that goes when a person states the inertia.
const InertiaAssumed = "The load's inertia"

// FiguresOf gathers them of a drive, with its settings as the sheet plans them.
func FiguresOf(d drivefile.Drive, place drivefile.Place, f *dialect.Family, settings map[string]int64) Figures {
	out := Figures{Settings: settings, Assumed: []string{}}
	if f == nil {
		out.Missing = "the drive's family (gate Match)"
		return out
	}
	p := Plate(d.Motor)
	row := p.Row
	if p.Kind == plate.PermanentMagnet {
		power := row.Power
		if math.IsNaN(power) {
			power = row.Horsepower
		}
		out.Motor = machine.FromMagnetRow(power, row.Voltage, row.Current, row.Frequency, row.Speed, quantity.OrZero(row.Factor),
			quantity.OrZero(row.Efficiency), row.Poles)
		if _, ok := machine.MagnetOf(out.Motor); out.Motor.Poles > 0 && !ok {
			out.Missing = "a plate of magnets: current too, and a speed that is synchronous"
			return out
		}
		out.Magnet = true
	} else {
		out.Motor, _ = machine.FromRow(row)
	}
	if out.Motor.Poles == 0 {
		out.Missing = "power, voltage, frequency and speed of the row in use (gate Plate)"
		return out
	}
	at := SiteOf(d, place, f)
	assume := func(format string, args ...any) { out.Assumed = append(out.Assumed, fmt.Sprintf(format, args...)) }
	if out.Size = at.Size; !at.Known {
		out.Size = dialect.Size{Heavy: out.Motor.Current * 1.1, Phases: 3, LineLow: out.Motor.Voltage * .9,
			LineHigh: out.Motor.Voltage * 1.1, Power: out.Motor.Power / 1000}
		assume("A drive of %s A: its type is not known.", quantity.Digits(out.Size.Heavy, 4))
	}
	if !math.IsNaN(at.Rated) && at.Rated > 0 {
		out.Size.Heavy = at.Rated
	}
	if out.Line = at.Volts; math.IsNaN(out.Line) {
		out.Line = out.Motor.Voltage
		assume("A line of %s V: no supply is named.", quantity.Digits(out.Line, 4))
	}
	if out.Hz = at.Supply.Frequency.Num(quantity.Frequency, "Hz"); math.IsNaN(out.Hz) {
		out.Hz = 50
	}
	out.Linked = d.Motor.Rows[LinkedRow(d.Motor)].Connection
	out.Single = at.PhasesIn == "1"
	out.Own = d.Motor.Cooling != "forced"
	out.load(d, assume)
	out.process(d, assume)
	out.brake(d, assume)
	lined := slices.ContainsFunc(f.Settings, func(x dialect.Setting) bool { return x.Drives == "encoder-lines" && settings[x.Code] > 0 })
	if d.Site.Encoder == "wanted" && d.Intent.Control == "vector" && !lined {
		out.WithoutEncoder = true
		assume("It runs without its encoder: the drive is given its lines once gate Turn has proved its direction. How it holds at the " +
			"lowest speed is not shown so.")
	}
	return out
}

// load is what the shaft turns: kind and torque as wanted, inertia as usual for the kind while nobody knows it.
func (f *Figures) load(d drivefile.Drive, assume func(string, ...any)) {
	w := f.Motor.Speed * math.Pi / 30
	rated := f.Motor.Power / w
	in := d.Intent
	f.Load = motion.Load{Kind: in.Load, Speed: w}
	if f.Load.Kind == "" {
		f.Load.Kind = "constant"
		assume("A constant load: none is stated.")
	}
	share := in.LoadTorque.Num(quantity.Percent, "%") / 100
	if math.IsNaN(share) {
		share = .8
		assume("The load takes 80 %% of the rated torque.")
	}
	f.Load.Torque, f.TorqueStated = share*rated, !math.IsNaN(in.LoadTorque.Num(quantity.Percent, "%"))
	f.Load.Rubs = friction(in) * rated
	times := map[string]float64{"constant": 2, "linear": 3, "quadratic": 6, "constant-power": 4}[f.Load.Kind]
	f.LoadJ = times * drive.UsualInertia(f.Motor.Power, f.Motor.Poles)
	f.Band = 1 // an estimate may be half, or twice
	if v := in.LoadInertia.Num(quantity.Inertia, "kg·m²"); v >= 0 {
		f.LoadJ, f.Band = v, .2
		if b := in.InertiaBand.Num(quantity.Percent, "%") / 100; b >= 0 {
			f.Band = b
		}
		return
	}
	assume(InertiaAssumed+" is %s kg·m², %s times a usual rotor's; it may be half or twice that.", quantity.Digits(f.LoadJ, 4),
		quantity.Digits(times, 4))
}

// usualLag is by how much a measured value follows a speed, s. Common practice, for a pressure close to its pump.
const usualLag = 2

// process is what the drive's own controller regulates, as far as one is wanted.
func (f *Figures) process(d drivefile.Drive, assume func(string, ...any)) {
	in := d.Intent
	if in.Loop != "on" {
		return
	}
	f.Process = drive.Process{Top: in.LoopAtTop.Num(quantity.Percent, "%") / 100, Squared: in.LoopGrows == "square",
		Lag: in.LoopLag.Num(quantity.Seconds, "s"), Speed: in.HighestSpeed.Num(quantity.Speed, "r/min") * math.Pi / 30}
	if !(f.Process.Speed > 0) {
		f.Process.Speed = f.Load.Speed
	}
	if in.LoopGrows == "" {
		f.Process.Squared = f.Load.Kind == "quadratic"
		assume("The measured value grows with %s.", map[bool]string{true: "the square of the speed", false: "the speed"}[f.Process.Squared])
	}
	if math.IsNaN(f.Process.Top) {
		f.Process.Top = 1
		assume("The measured value is 100 %% at the highest speed.")
	}
	if math.IsNaN(f.Process.Lag) {
		f.Process.Lag = usualLag
		assume("The measured value follows after %d s.", usualLag)
	}
}

// Times of a spring-applied brake of middle size, s. Common practice.
const (
	BrakeOpens  = .15
	BrakeCloses = .1
)

// brake is what holds the shaft, with its usual size while nobody knows it, and what keeps it from turning back.
func (f *Figures) brake(d drivefile.Drive, assume func(string, ...any)) {
	t := d.Turn
	f.Backstop = t.Backstop
	rated := f.Motor.Power / (f.Motor.Speed * math.Pi / 30)
	if t.Hanging {
		f.Load.Kind = "hanging"
	}
	if t.Brake != "drive" && t.Brake != "apart" {
		return
	}
	f.Brake = drive.Brake{Torque: 2 * rated, Follows: t.Brake == "drive", Opens: BrakeOpens, Closes: BrakeCloses}
	assume("The brake holds %s N·m, twice the rated torque.", quantity.Digits(f.Brake.Torque, 4))
	opens, closes := t.Opens.Num(quantity.Seconds, "s"), t.Closes.Num(quantity.Seconds, "s")
	if !math.IsNaN(opens) {
		f.Brake.Opens = opens
	}
	if !math.IsNaN(closes) {
		f.Brake.Closes = closes
	}
	if math.IsNaN(opens) || math.IsNaN(closes) {
		assume("It opens in %s s and closes in %s s.", quantity.Digits(f.Brake.Opens, 4), quantity.Digits(f.Brake.Closes, 4))
	}
}

// WishesOf are what is wanted of a drive with a motor of so many poles, at the motor's shaft.
func WishesOf(d drivefile.Drive, poles int) motion.Wishes {
	in := d.Intent
	rpm := func(q drivefile.Q) float64 { return q.Num(quantity.Speed, "r/min") }
	w := motion.Wishes{Lowest: rpm(in.LowestSpeed), Highest: rpm(in.HighestSpeed), RefLow: rpm(in.ReferenceLow),
		RefHigh: rpm(in.ReferenceHigh), Both: in.Direction == "both", Coast: in.StopMode == "coast", Lost: in.ReferenceLoss}
	w.Rise, w.Fall = w.Highest/Slope(in.Rise, w.Highest, poles), w.Highest/Slope(in.Fall, w.Highest, poles)
	w.Presets = [4]float64{math.NaN(), rpm(in.Preset1), rpm(in.Preset2), rpm(in.Preset3)}
	return w
}
