package translate

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/quantity"
	"tingate/core/stops"
)

// Millis is a time as entered, in ms; 0 when it is not.
func Millis(q drivefile.Q) int {
	v := q.Num(quantity.Seconds, "s")
	if math.IsNaN(v) {
		return 0
	}
	return int(math.Round(v * 1000))
}

// StopDrives are the drives of a circuit in its order, and the number of the drive's own among them; -1: the circuit stands by itself.
func StopDrives(d drivefile.Drive, c drivefile.StopCircuit) (tags []string, own int) {
	own = -1
	for _, t := range strings.Split(c.Drives, ",") {
		if t = strings.TrimSpace(t); t != "" {
			if strings.EqualFold(t, d.Tag) {
				own = len(tags)
			}
			tags = append(tags, t)
		}
	}
	if own < 0 && !d.Stop.Alone {
		own, tags = 0, append([]string{d.Tag}, tags...)
	}
	return tags, own
}

// StopSpec says how the drive's stop circuit is drawn.
func StopSpec(d drivefile.Drive, c drivefile.StopCircuit, f *dialect.Family, near map[string]Neighbour) stops.Spec {
	s := stops.Spec{Kind: c.Kind, Reset: c.Reset, Feed: c.Feed, Lamps: c.Lamps, Delay: Millis(c.Delay), Discrepancy: Millis(c.Discrepancy),
		FromDrive: c.Supply == "drive", Split: c.Commons == "split", Jumper: c.Jumper, Status: c.Status, Fuse: c.Fuse,
		StartDelay: Millis(c.StartDelay), OutPulse: Millis(c.OutPulse), Interlock: c.Interlock, Strip: true}
	s.Contactors, _ = strconv.Atoi(c.Contactors)
	s.Aux, _ = strconv.Atoi(c.Aux)
	ids := slices.Collect(maps.Keys(c.Devices))
	sort.Slice(ids, func(i, k int) bool { return natural(ids[i], ids[k]) })
	for _, id := range ids {
		s.Devices = append(s.Devices, stops.SpecDevice{ID: id, Name: c.Devices[id].Name, Kind: c.Devices[id].Kind})
	}
	tags, own := StopDrives(d, c)
	for i, tag := range tags {
		x := stops.SpecDrive{ID: fmt.Sprintf("T%d", i+1), Name: tag}
		if i == own {
			asWired(Neighbour{d, f}, &x)
		} else if n, ok := near[strings.ToLower(tag)]; ok {
			asWired(n, &x)
		}
		s.Drives = append(s.Drives, x)
	}
	s.Alone = len(s.Drives) == 0
	return s
}

// Neighbour is another drive of the place, as far as a circuit that both share needs it.
type Neighbour struct {
	Drive  drivefile.Drive
	Family *dialect.Family // nil when none is chosen, or it is not known here
}

// asWired gives a drive at the end of a circuit its times, its brake, and its torque-off terminals by the names of its papers.
func asWired(n Neighbour, d *stops.SpecDrive) {
	st := n.Drive.Stop
	d.Discrepancy, d.Filter, d.Latched = Millis(st.Discrepancy), Millis(st.Filter), st.Latched == "yes"
	d.Brake = n.Drive.Turn.Brake == "drive"
	if n.Family == nil {
		return
	}
	var l []dialect.Terminal
	for _, t := range n.Family.Terminals {
		if t.Kind == "torque-off" {
			l = append(l, t)
		}
	}
	if len(l) < 2 {
		return
	}
	end := func(t dialect.Terminal) [2]string {
		ends := t.Ends()
		if len(ends) > 1 {
			return [2]string{ends[0], ends[1]}
		}
		return [2]string{ends[0], t.Common}
	}
	a, b := end(l[0]), end(l[1])
	if a[1] == "" || b[1] == "" {
		return
	}
	d.A, d.B = a, b
	d.OhmA, d.OhmB = 24000/math.Max(l[0].Current, 1), 24000/math.Max(l[1].Current, 1)
}

// natural orders marks as people do: S2 before S10.
func natural(a, b string) bool {
	x, y := marks.FindStringSubmatch(a), marks.FindStringSubmatch(b)
	if x != nil && y != nil && x[1] == y[1] {
		m, _ := strconv.Atoi(x[2])
		n, _ := strconv.Atoi(y[2])
		if m != n {
			return m < n
		}
	}
	return a < b
}

var marks = regexp.MustCompile(`^(\D*)(\d+)$`)
