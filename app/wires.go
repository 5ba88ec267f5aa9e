package app

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

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/core/record"
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
func (a *App) LinkProgress(driveID string) LinkProgress {
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
		return nil, &RefusedError{"This drive is being read, recorded or written already. Wait until that is done, or end it."}
	}
	w.busy[drive] = LinkProgress{}
	return func() { w.mu.Lock(); defer w.mu.Unlock(); delete(w.busy, drive) }, nil
}

const requestTimeout = 1500 * time.Millisecond

// wired is a drive with its connection.
type wired struct {
	conn    *link.Conn
	job     gate.Job
	state   gate.State
	unit    uint8
	release func()
}

// connect dials the address that a person entered for the drive.
func (a *App) connect(ctx context.Context, who Actor, driveID string) (wired, error) {
	return a.connectTo(ctx, who, driveID, func(j gate.Job) (string, uint8, error) {
		unit, err := unitOf(j.Drive.Link)
		return j.Drive.Link.Address, unit, err
	})
}

// connectTo dials the address that at gives for a drive: its own, or that of its bench.
func (a *App) connectTo(ctx context.Context, who Actor, driveID string, at func(gate.Job) (string, uint8, error)) (wired, error) {
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return wired{}, err
	}
	if _, err := person(j.Place, who); err != nil {
		return wired{}, err
	}
	if j.Family == nil {
		return wired{}, &RefusedError{"Choose the drive's family first, or ask what answers: it holds the register map."}
	}
	if j.Family.Link.Identity.Register == 0 {
		return wired{}, &RefusedError{"The file of family " + j.Family.Name + " has no register map: read its keypad instead."}
	}
	address, unit, err := at(j)
	if err != nil {
		return wired{}, err
	}
	release, err := a.wires.take(driveID)
	if err != nil {
		return wired{}, err
	}
	if err := a.belongs(ctx, j.Place, address, unit); err != nil {
		release()
		return wired{}, err
	}
	conn, err := link.Dial(ctx, address, unit, j.Family, requestTimeout)
	if err != nil && j.Family.Link.Clients == 1 { // it may not have let go yet of who asked what it is
		time.Sleep(letsGo)
		conn, err = link.Dial(ctx, address, unit, j.Family, requestTimeout)
	}
	if err != nil {
		release()
		return wired{}, &RefusedError{err.Error()}
	}
	w := wired{conn, j, a.evaluate(j), unit, func() { conn.Close(); release() }}
	if address == j.Drive.Link.Address && !a.isBench(address) {
		if err := a.answered(ctx, who, w); err != nil {
			w.release()
			return wired{}, err
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

// belongs refuses what answers at an address where it does not belong: a stand-in at a real place, and anything else at a simulated one. A stand-in says
// what it is, on whichever port or machine it runs.
func (a *App) belongs(ctx context.Context, p drivefile.Place, address string, unit uint8) error {
	simulated := a.isBench(address)
	if at, silent := a.wires.silent.Load(address); !simulated && !(silent && time.Since(at.(time.Time)) < silentFor) {
		id, err := link.Identify(ctx, address, unit, identifyTimeout)
		var e *link.Error
		switch {
		case err == nil:
			simulated = id.Simulated()
		case errors.As(err, &e) && e.Unreached():
			return &RefusedError{e.What}
		case errors.As(err, &e):
			a.wires.silent.Store(address, time.Now())
		}
	}
	switch {
	case simulated && p.Kind != drivefile.Simulated:
		return &RefusedError{fmt.Sprintf("What answers at %s says of itself that it is a simulated stand-in, and %s is a real place: nothing of it counts here, and nothing was read or written.", address, p.Name)}
	case !simulated && p.Kind == drivefile.Simulated:
		return &RefusedError{fmt.Sprintf("%s is a simulated place, and what answers at %s does not say that it is a stand-in: it may be a real drive. Nothing was read or written.", p.Name, address)}
	}
	return nil
}

// answered is for a drive that answers at its recorded address: one whose supplies are recorded opened or dead contradicts the record, which ends at
// once. What feeds its electronics counts; with a control supply recorded live an answer says nothing of the mains, but a DC link above the limit does.
func (a *App) answered(ctx context.Context, who Actor, w wired) error {
	var off []isolation.Source
	why := fmt.Sprintf("The drive answered at %s while this was recorded opened.", w.job.Drive.Link.Address)
	control := false
	for _, s := range w.state.Sources {
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
		if !ok || v <= w.state.Discharge.Limit {
			return nil
		}
		why = fmt.Sprintf("The drive answered, and its DC link holds %.0f V, while this was recorded opened.", v)
	}
	by, err := person(w.job.Place, who)
	if err != nil {
		return err
	}
	return a.write(context.WithoutCancel(ctx), func(tx *store.Tx) error {
		for _, s := range off {
			electronics := control || s.Kind == "mains" || s.Kind == "control" || s.Kind == "dc-link"
			if !electronics || s.State.Why == why {
				continue
			}
			if err := a.addEntry(tx, by, w.job.Drive.Place, NewID(), drivefile.EntryEnergy, drivefile.Energy{Supply: s.ID, State: drivefile.NotKnown, Drive: w.job.ID, Note: why}); err != nil {
				return err
			}
			if err := a.staleFed(tx, w.job.Drive.Place, w.job.Place, s.ID); err != nil {
				return err
			}
		}
		return nil
	})
}

// linkVolts is what the drive says of its DC link, when its family tells.
func linkVolts(ctx context.Context, w wired) (float64, bool) {
	if w.conn == nil || w.job.Family == nil {
		return 0, false
	}
	at := slices.IndexFunc(w.job.Family.Link.Actuals, func(x dialect.Actual) bool { return x.What == "link" })
	if at < 0 {
		return 0, false
	}
	m, err := w.conn.Glance(ctx)
	if err != nil || at >= len(m.Figures) || math.IsNaN(m.Figures[at]) {
		return 0, false
	}
	return m.Figures[at], true
}

// unitOf is the unit that a person entered; 1 when blank.
func unitOf(l drivefile.Link) (uint8, error) {
	if l.Address == "" {
		return 0, &RefusedError{"Enter the drive's address first, like 192.0.2.10:502."}
	}
	u := strings.TrimSpace(l.Unit)
	if u == "" {
		return 1, nil
	}
	n, err := strconv.Atoi(u)
	if err != nil || n < 1 || n > 255 {
		return 0, &InputError{"link.unit", u, "1 to 255; 0 is every drive on the line at once"}
	}
	return uint8(n), nil
}

// Probed is what answers at the address of a drive.
type Probed struct {
	Family   string  `json:"family"`
	Version  string  `json:"version"`
	Type     string  `json:"type" doc:"the size's type, as far as the drive tells it"`
	Power    float64 `json:"power_kw"`
	Heavy    float64 `json:"heavy_a"`
	Normal   float64 `json:"normal_a"`
	Code     int     `json:"code" doc:"what its rating register holds"`
	Firmware string  `json:"firmware"`
	Covered  bool    `json:"covered" doc:"the family's file was written for this firmware"`
}

// ProbeDrive asks which family and size answers at a drive's address. Nothing is written, to the drive or to the file.
func (a *App) ProbeDrive(ctx context.Context, who Actor, driveID string) ([]Probed, error) {
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return nil, err
	}
	if _, err := person(j.Place, who); err != nil {
		return nil, err
	}
	unit, err := unitOf(j.Drive.Link)
	if err != nil {
		return nil, err
	}
	release, err := a.wires.take(driveID)
	if err != nil {
		return nil, err
	}
	defer release()
	if err := a.belongs(ctx, j.Place, j.Drive.Link.Address, unit); err != nil {
		return nil, err
	}
	var families []*dialect.Family
	for _, n := range a.families.Names() {
		families = append(families, a.families.Find(n))
	}
	found, err := link.Probe(ctx, j.Drive.Link.Address, unit, families, requestTimeout)
	if err != nil {
		return nil, &RefusedError{err.Error()}
	}
	if len(found) > 0 && !a.isBench(j.Drive.Link.Address) {
		if err := a.answered(ctx, who, wired{job: j, state: a.evaluate(j)}); err != nil {
			return nil, err
		}
	}
	out := []Probed{}
	for _, f := range found {
		inside, stated := f.Family.Covers(f.Firmware)
		out = append(out, Probed{f.Family.Name, f.Family.Version, f.Rating.Type, f.Rating.Power, f.Rating.Heavy, f.Rating.Normal, int(f.Code), f.Firmware, inside || !stated})
	}
	return out, nil
}

// LinkResult is what a read or write over the link came to.
type LinkResult struct {
	Read    int    `json:"read" doc:"settings read"`
	Outcome string `json:"outcome" doc:"read, partly-read, held, differs, refused, unknown"`
	Message string `json:"message"`
	Remark  string `json:"remark,omitempty" doc:"what was not as it should be, though the value is held: somebody runs it, it restarted, its answer was another"`
}

// ReadDrive reads every setting and records each as a reading; with a snapshot name it also keeps the whole as found
// or as left. What was read before a failure is recorded, and the failure is told. progress may be nil.
func (a *App) ReadDrive(ctx context.Context, who Actor, driveID, snapshot string, progress func(done, total int)) (LinkResult, error) {
	if snapshot != "" && snapshot != "as-found" && snapshot != "as-left" {
		return LinkResult{}, &InputError{"snapshot", snapshot, "as-found, as-left or nothing"}
	}
	w, err := a.connect(ctx, who, driveID)
	if err != nil {
		return LinkResult{}, err
	}
	defer w.release()
	values, failed := w.conn.ReadAll(ctx, func(done, total int) {
		a.wires.at(driveID, done, total)
		if progress != nil {
			progress(done, total)
		}
	})
	if err := a.recordReadings(context.WithoutCancel(ctx), who, driveID, w.job.Family, values, "link"); err != nil {
		return LinkResult{}, err
	}
	if failed != nil {
		return LinkResult{Read: len(values), Outcome: "partly-read", Message: fmt.Sprintf("%d of %d settings were read and are kept. %s", len(values), len(w.job.Family.Settings), failed)}, nil
	}
	res := LinkResult{Read: len(values), Outcome: "read", Message: fmt.Sprintf("%d settings read.", len(values))}
	if snapshot != "" {
		snap := drivefile.Snapshot{Name: snapshot, Dialect: w.job.Family.Name, Version: w.job.Family.Version, Hash: w.job.Family.Hash, How: "link", Values: map[string]drivefile.Value{}}
		for code, v := range values {
			snap.Values[code] = drivefile.Value{Steps: v.Steps, Text: v.Text}
		}
		if err := a.record(ctx, who, driveID, NewID(), drivefile.EntrySnapshot, func(situation) (any, error) { return snap, nil }); err != nil {
			return res, err
		}
		res.Message += " Saved " + strings.ReplaceAll(snapshot, "-", " ") + "."
	}
	return res, nil
}

func (a *App) recordReadings(ctx context.Context, who Actor, driveID string, f *dialect.Family, values map[string]dialect.Held, how string) error {
	return a.write(ctx, func(tx *store.Tx) error {
		doc, err := driveDoc(tx.Reader, driveID)
		if err != nil {
			return err
		}
		_, by, err := signerAt(tx.Reader, doc.Place, who)
		if err != nil {
			return err
		}
		d, err := drivefile.DecodeDrive(doc.Body)
		if err != nil {
			return err
		}
		for i := range f.Settings {
			s := &f.Settings[i]
			v, ok := values[s.Code]
			if !ok {
				continue
			}
			if err := a.addEntry(tx, by, driveID, NewID(), drivefile.EntryReading, drivefile.Reading{Code: s.Code, Text: v.Text, Steps: &v.Steps, How: how, Serial: record.SerialOf(d)}); err != nil {
				return err
			}
		}
		return a.glance(tx, doc)
	})
}

// WriteSetting writes one setting as planned and reads it back. The write is recorded as begun before anything is
// sent, and its outcome after, so that a crash in between shows as not known. clear is set when the person confirmed
// that the area is clear.
func (a *App) WriteSetting(ctx context.Context, who Actor, driveID, id, code string, clear bool) (LinkResult, error) {
	if err := validID("id", id); err != nil {
		return LinkResult{}, err
	}
	if done, err := recorded(a.store.Read(ctx), id, who, driveID, drivefile.EntryWrite); err != nil {
		return LinkResult{}, err
	} else if done {
		return LinkResult{Outcome: link.Unknown, Message: "This write was begun already; it is not sent twice. Read the setting."}, nil
	}
	w, err := a.connect(ctx, who, driveID)
	if err != nil {
		return LinkResult{}, err
	}
	defer w.release()
	s, err := setting(w.job.Family, code)
	if err != nil {
		return LinkResult{}, err
	}
	line := lineOf(w.state, code)
	if line == nil || !line.Planned {
		return LinkResult{}, &RefusedError{"Nothing is planned for " + code + ", so there is nothing to write."}
	}
	steps := line.Steps
	var cleared *link.Clearance
	wr := drivefile.Write{Code: code, Asked: steps, Outcome: "begun", Address: w.job.Drive.Link.Address, Unit: int(w.unit), Register: int(s.Register)}
	if clear && s.Acts == "motion" {
		p, _ := person(w.job.Place, who)
		cleared = &link.Clearance{Person: p.initials}
		wr.Cleared = p.initials
	}
	begun := false
	res := w.conn.Write(ctx, s, steps, cleared, func(before int64, raw []uint16) error {
		wr.Before = &before
		for _, r := range raw {
			wr.Raw = append(wr.Raw, int(r))
		}
		begun = true
		return a.record(context.WithoutCancel(ctx), who, driveID, id, drivefile.EntryWrite, func(situation) (any, error) { return wr, nil })
	})
	if !begun {
		return LinkResult{Outcome: res.Outcome, Message: res.Message}, nil
	}
	wr.Begun, wr.Outcome, wr.ReadBack, wr.Message = id, res.Outcome, res.ReadBack, res.Message
	if res.ReadBack != nil {
		wr.BackText = s.Text(*res.ReadBack)
	}
	if err := a.record(context.WithoutCancel(ctx), who, driveID, NewID(), drivefile.EntryWrite, func(situation) (any, error) { return wr, nil }); err != nil {
		return LinkResult{Outcome: link.Unknown, Message: "The outcome could not be recorded; read " + code + " again."}, err
	}
	if was := line.Read; was != nil && was.Steps != nil && res.Before != nil && *was.Steps != *res.Before {
		res.Message = strings.TrimSpace(res.Message + fmt.Sprintf(" Before, it held %s, not %s as last read: somebody else has changed it.", s.WithUnit(*res.Before), s.WithUnit(*was.Steps)))
	}
	out := LinkResult{Outcome: res.Outcome, Message: res.Message}
	switch {
	case res.Message == "":
		out.Message = code + " holds " + s.WithUnit(steps) + "."
	case res.Outcome == link.Held:
		out.Remark = res.Message
	}
	return out, nil
}
