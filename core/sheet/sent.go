package sheet

import (
	"tingate/core/dialect"
	"tingate/core/drivefile"
)

// Sent is one request that wrote, for the log of a drive.
type Sent struct {
	Code     string            `json:"code"`
	Name     string            `json:"name"`
	Asked    string            `json:"asked"`
	Before   string            `json:"before"`
	Back     string            `json:"back" doc:"what was read back"`
	Outcome  drivefile.Outcome `json:"outcome" enum:"begun,held,differs,refused,unknown"`
	Message  string            `json:"message"`
	Address  string            `json:"address"`
	Unit     int               `json:"unit"`
	Register int               `json:"register"`
	Raw      []int             `json:"raw"`
	Cleared  string            `json:"cleared_by"`
	By       string            `json:"by"`
	At       string            `json:"at"`
}

// SentLog lists every request that wrote to the drive, newest first; one line for a write with its outcome.
func SentLog(entries []drivefile.Entry, f *dialect.Family) []Sent {
	out := []Sent{}
	at := map[string]int{}
	for _, e := range entries {
		b, ok := drivefile.Contents[drivefile.Write](e)
		if !ok {
			continue
		}
		i, ok := at[b.Begun]
		if !ok || b.Begun == "" {
			out = append(out, Sent{Code: b.Code, Address: b.Address, Unit: b.Unit, Register: b.Register, Raw: b.Raw, Cleared: b.Cleared,
				By: e.By, At: e.At})
			i = len(out) - 1
			at[e.ID] = i
			if out[i].Raw == nil {
				out[i].Raw = []int{}
			}
		}
		out[i].Outcome, out[i].Message = b.Outcome, b.Message
		show := func(steps *int64, text string) string { return "" }
		if f != nil {
			if s, ok := f.Setting(b.Code); ok {
				out[i].Name, out[i].Asked = s.Name, s.Shows(dialect.Held{Steps: b.Asked, Text: b.AskedText})
				show = func(steps *int64, text string) string {
					if steps == nil {
						return ""
					}
					return s.Shows(dialect.Held{Steps: *steps, Text: text})
				}
			}
		}
		if b.Before != nil {
			out[i].Before = show(b.Before, b.BeforeText)
		}
		out[i].Back = show(b.ReadBack, b.BackText)
	}
	for a, b := 0, len(out)-1; a < b; a, b = a+1, b-1 {
		out[a], out[b] = out[b], out[a]
	}
	return out
}
