package links

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/link"
	"tingate/store"
)

// wires keeps one link at a time to a drive.
type wires struct {
	mu   sync.Mutex
	busy map[string]LinkProgress
	// silent are addresses whose device gave no answer to what it is, with when.
	silent sync.Map
}

// LinkProgress says how far a read of a drive has come. Total 0: nothing is under way.
type LinkProgress struct {
	Done  int `json:"done" doc:"blocks of registers read"`
	Total int `json:"total"`
}

// LinkProgress tells how far the read of a drive has come that is under way.
func (a *Links) LinkProgress(driveID string) LinkProgress {
	a.wires.mu.Lock()
	defer a.wires.mu.Unlock()
	return a.wires.busy[driveID]
}

func (w *wires) at(drive string, done, total int) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.busy[drive] = LinkProgress{done, total}
}

func (w *wires) take(drive string) (release func(), err error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if _, busy := w.busy[drive]; busy {
		return nil, base.Refuse("This drive is being read, recorded or written already. Wait until that is done, or end it.")
	}
	w.busy[drive] = LinkProgress{}
	return func() { w.mu.Lock(); defer w.mu.Unlock(); delete(w.busy, drive) }, nil
}

const requestTimeout = 1500 * time.Millisecond

// Wired is a drive with its connection.
type Wired struct {
	Conn    *link.Conn
	Job     gate.Job
	State   gate.State
	unit    uint8
	Release func()
}

// Connect dials the address that a person entered for the drive.
func (a *Links) Connect(ctx context.Context, who base.Actor, driveID string) (Wired, error) {
	return a.ConnectTo(ctx, who, driveID, func(j gate.Job) (string, uint8, error) {
		unit, err := unitOf(j.Drive.Link)
		return j.Drive.Link.Address, unit, err
	})
}

// ConnectTo dials the address that at gives for a drive: its own, or that of its bench.
func (a *Links) ConnectTo(ctx context.Context, who base.Actor, driveID string, at func(gate.Job) (string, uint8, error)) (Wired, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return Wired{}, err
	}
	if _, err := base.PersonOf(j.Place, who); err != nil {
		return Wired{}, err
	}
	if j.Family == nil {
		return Wired{}, base.Refuse("Choose the drive's family first, or ask what answers: it holds the register map.")
	}
	if j.Family.Link.Identity.Register == 0 {
		return Wired{}, base.Refuse("The file of family " + j.Family.Name + " has no register map: read its keypad instead.")
	}
	address, unit, err := at(j)
	if err != nil {
		return Wired{}, err
	}
	release, err := a.wires.take(driveID)
	if err != nil {
		return Wired{}, err
	}
	if err := a.belongs(ctx, j.Place, address, unit); err != nil {
		release()
		return Wired{}, err
	}
	conn, err := link.Dial(ctx, address, unit, j.Family, requestTimeout)
	if err != nil && j.Family.Link.Clients == 1 { // it may not have let go yet of who asked what it is
		time.Sleep(letsGo)
		conn, err = link.Dial(ctx, address, unit, j.Family, requestTimeout)
	}
	if err != nil {
		release()
		return Wired{}, base.Refuse(err.Error())
	}
	w := Wired{conn, j, a.Evaluate(j), unit, func() { conn.Close(); release() }}
	if address == j.Drive.Link.Address && !a.benches.IsBench(address) {
		if err := a.answered(ctx, who, w); err != nil {
			w.Release()
			return Wired{}, err
		}
	}
	return w, nil
}

// letsGo is how long a drive that takes one connection at a time is given to end the last one.
const letsGo = 300 * time.Millisecond

// identifyTimeout is how long a device is given to say what it is; one that says nothing is not asked again for a while.
const (
	identifyTimeout = time.Second
	silentFor       = 10 * time.Minute
)

// belongs refuses what answers at an address where it does not belong: a stand-in at a real place, and anything else at a simulated one. A
// stand-in says what it is, on whichever port or machine it runs.
func (a *Links) belongs(ctx context.Context, p drivefile.Place, address string, unit uint8) error {
	simulated := a.benches.IsBench(address)
	if at, silent := a.wires.silent.Load(address); !simulated && !(silent && time.Since(at.(time.Time)) < silentFor) {
		id, err := link.Identify(ctx, address, unit, identifyTimeout)
		var e *link.Error
		switch {
		case err == nil:
			simulated = id.Simulated()
		case errors.As(err, &e) && e.Unreached():
			return base.Refuse(e.What)
		case errors.As(err, &e):
			a.wires.silent.Store(address, time.Now())
		}
	}
	switch {
	case simulated && p.Kind != drivefile.Simulated:
		return base.Refuse(fmt.Sprintf("What answers at %s says of itself that it is a simulated stand-in, and %s is a real place: "+
			"nothing of it counts here, and nothing was read or written.", address, p.Name))
	case !simulated && p.Kind == drivefile.Simulated:
		return base.Refuse(fmt.Sprintf("%s is a simulated place, and what answers at %s does not say that it is a stand-in: it may be a "+
			"real drive. Nothing was read or written.", p.Name, address))
	}
	return nil
}

// answered is for a drive that answers at its recorded address: one whose supplies are recorded opened or dead contradicts the record,
// which ends at once. What feeds its electronics counts; with a control supply recorded live an answer says nothing of the mains, but a DC
// link above the limit does.
func (a *Links) answered(ctx context.Context, who base.Actor, w Wired) error {
	var off []isolation.Source
	why := fmt.Sprintf("The drive answered at %s while this was recorded opened.", w.Job.Drive.Link.Address)
	control := false
	for _, s := range w.State.Sources {
		control = control || s.Kind == "control" && s.State.State == drivefile.Live
		if s.State.State == drivefile.Dead || s.State.State == drivefile.NotKnown && len(s.Locks) > 0 {
			off = append(off, s)
		}
	}
	if len(off) == 0 {
		return nil
	}
	if control {
		v, ok := linkVolts(ctx, w)
		if !ok || v <= w.State.Discharge.Limit {
			return nil
		}
		why = fmt.Sprintf("The drive answered, and its DC link holds %.0f V, while this was recorded opened.", v)
	}
	by, err := base.PersonOf(w.Job.Place, who)
	if err != nil {
		return err
	}
	return a.InTx(context.WithoutCancel(ctx), func(tx *store.Tx) error {
		for _, s := range off {
			electronics := control || s.Kind == "mains" || s.Kind == "control" || s.Kind == "dc-link"
			if !electronics || s.State.Why == why {
				continue
			}
			if err := a.AddEntry(tx, by, w.Job.Drive.Place, base.NewID(), drivefile.EntryEnergy,
				drivefile.Energy{Supply: s.ID, State: drivefile.NotKnown, Drive: w.Job.ID, Note: why}); err != nil {
				return err
			}
			if err := a.energy.StaleFed(tx, w.Job.Drive.Place, w.Job.Place, s.ID); err != nil {
				return err
			}
		}
		return nil
	})
}

// linkVolts is what the drive says of its DC link, when its family tells.
func linkVolts(ctx context.Context, w Wired) (float64, bool) {
	if w.Conn == nil || w.Job.Family == nil {
		return 0, false
	}
	at := slices.IndexFunc(w.Job.Family.Link.Actuals, func(x dialect.Actual) bool { return x.What == "link" })
	if at < 0 {
		return 0, false
	}
	m, err := w.Conn.Glance(ctx)
	if err != nil || at >= len(m.Figures) || math.IsNaN(m.Figures[at]) {
		return 0, false
	}
	return m.Figures[at], true
}

// unitOf is the unit that a person entered; 1 when blank.
func unitOf(l drivefile.Link) (uint8, error) {
	if l.Address == "" {
		return 0, base.Refuse("Enter the drive's address first, like 192.0.2.10:502.")
	}
	u := strings.TrimSpace(l.Unit)
	if u == "" {
		return 1, nil
	}
	n, err := strconv.Atoi(u)
	if err != nil || n < 1 || n > 255 {
		return 0, base.Bad("link.unit", u, "1 to 255; 0 is every drive on the line at once")
	}
	return uint8(n), nil
}
