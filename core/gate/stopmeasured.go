package gate

import (
	"math"
	"strings"

	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/stops"
)

// stopMeasured is what is read off besides: how far the channels are apart, what the drive shows, a drop.
func (g *stopGate) stopMeasured(d *stops.Drawing) {
	const group = "Measured"
	st, turn := g.job.Drive.Stop, g.job.Drive.Turn
	ready := g.out.Ready
	limit := st.Discrepancy.Num(quantity.Seconds, "s") * 1000
	if math.IsNaN(limit) {
		limit = 500
	}
	basis := g.stopBasis(d)
	if c, _ := stopCircuit(g.job); c.Kind != "one-channel" {
		g.measure(Check{Key: "stop/measured/apart", Group: group, Title: "Channels open apart by at most", Unit: "ms", Work: Live,
			Basis: basis, Detail: "As the drive or the relay shows it; well below the drive's limit."}, 0, math.Nextafter(limit, 0), Stops,
			ready) // at the limit itself the drive may trip
	}
	if st.Alone {
		return
	}
	g.confirm(Check{Key: "stop/measured/message", Group: group, Title: "With torque off the drive shows " + g.torqueOffWord(), Work: Live,
		Basis:  map[string]string{"family": g.job.Drive.Rating.Dialect, "as": g.job.Drive.Intent.TorqueOffShows},
		Detail: "A stop with its own message, or a fault: who works it must know which."}, ready)
	if turn.Hanging {
		g.measure(Check{Key: "stop/measured/drop", Group: group, Title: "Drop of the load when torque goes, held by the brake", Unit: "mm",
			Work: Live, Basis: basis, Detail: "From the lowest height, once."}, 0, st.Drop.Num(quantity.Count, ""), Stops,
			ready && st.Drop.Value != nil)
		g.measure(Check{Key: "stop/measured/slip", Group: group, Title: "Slip of the closed brake in a minute", Unit: "mm", Work: Live,
			Basis: basis}, 0, 1, Stops, ready)
	}
}

// FromSpeedOpen says of a stop record, on every page that carries it, what its tests with the shaft still do not show.
const FromSpeedOpen = "Stops from speed: open. They are measured coupled, from the worst speed at the greatest inertia, when the " +
	"machine is first run; until then the zone is kept clear by other means."

// fromSpeed names the second part of a stop record: it stands open until it is measured at the machine, and holds nothing up.
func (g *stopGate) fromSpeed() {
	st := g.job.Drive.Stop
	g.finding("stop", finding.Finding{Code: "from-speed-open", Severity: finding.Note, Field: "stop.speed",
		Title:  "Stops from speed are open",
		Detail: strings.TrimPrefix(FromSpeedOpen, "Stops from speed: open. ") + " This gate is the first part, at standstill."},
		map[string]string{"speed": st.Speed.Text})
}
