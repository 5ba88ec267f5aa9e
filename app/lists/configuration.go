package lists

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/formats/devicefile"
	"tingate/formats/familyfile"
)

// Configuration is a drive's plan as a device configuration file (CiA 306-1): every object of its family, the planned ones with what
// they are
// to hold. node is the drive's number on the bus, 1 to 127.
func (a *Lists) Configuration(ctx context.Context, driveID string, node int) ([]byte, error) {
	v, err := a.Drive(ctx, base.Actor{}, driveID)
	if err != nil {
		return nil, err
	}
	if node < 1 || node > 127 {
		return nil, base.Bad("node", strconv.Itoa(node), "1 to 127")
	}
	f := a.FamilyOf(v)
	if f == nil {
		return nil, base.Refuse("Choose the drive's family first.")
	}
	values := map[string]dialect.Held{}
	for _, l := range v.State.Lines {
		if l.Planned && l.Missing == "" {
			values[l.Code] = dialect.Held{Steps: l.Steps, Text: l.SetTo}
		}
	}
	d, left := familyfile.DeviceOf(f, values, v.Drive.Tag+".dcf", node)
	if len(d.Objects) == 0 {
		return nil, base.Refuse(
			fmt.Sprintf("The settings of %s are no objects of an object dictionary: a device configuration file cannot hold them.", f.Name),
		)
	}
	if len(left) > 0 { // a file that leaves a planned setting out without a word would be taken for the whole plan
		return nil, base.Refuse(
			"Planned, and no objects: " + strings.Join(left, ", ") + ". A device configuration file cannot hold the whole plan.",
		)
	}
	return devicefile.Write(d), nil
}

// configured are the values of a device configuration file, as readings; what cannot be one is told.
func configured(f *dialect.Family, raw []byte, res *CSVResult) (map[string]dialect.Held, error) {
	d, err := devicefile.Read(raw)
	if err != nil {
		return nil, base.Bad("file", err.Error(), "a device configuration file (DCF)")
	}
	if d.Planned { // or the plan would confirm itself
		return nil, base.Bad("file", "the plan as it was written here", "what was read out of the drive")
	}
	values := map[string]dialect.Held{}
	for _, o := range d.Objects {
		if o.Value == "" {
			continue
		}
		s, ok := f.Setting(dialect.ObjectCode(o.Index, o.Sub))
		if !ok {
			res.Problems = append(res.Problems, fmt.Sprintf("%s %s is no setting of %s", o.Code(), o.Name, f.Name))
			continue
		}
		if values[s.Code], err = s.FromCounts(o.Value); err != nil {
			delete(values, s.Code)
			res.Problems = append(res.Problems, fmt.Sprintf("%s %s: %v", s.Code, s.Name, err))
		}
	}
	res.Read = len(values)
	if len(values) == 0 && len(res.Problems) == 0 {
		return nil, base.Bad("file", "no object with a value", "a device configuration file (DCF); a device description (EDS) holds none")
	}
	return values, nil
}
