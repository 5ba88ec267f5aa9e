package server

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"unicode"

	"github.com/danielgtaylor/huma/v2"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/entries"
	"tingate/app/families"
	"tingate/app/links"
	"tingate/app/lists"
	"tingate/app/yard"
	"tingate/core/drivefile"
)

// Who is the person and browser that act, as the front end tells.
type Who struct {
	Person string `header:"X-Tingate-Person" doc:"id of the person who works"`
	Device string `header:"X-Tingate-Device" doc:"id of the browser"`
}

func (w Who) actor() base.Actor { return base.Actor{Person: w.Person, Device: w.Device} }

// DrivePath is the drive (or other document) that a request is about.
type DrivePath struct {
	Who
	ID string `path:"id"`
}

type viewOut struct{ Body base.View }

type file struct {
	ContentType string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

func download(name, typ string, b []byte, err error) (*file, error) {
	return &file{typ, fmt.Sprintf("attachment; filename=%q", name), b}, problem(err)
}

// act registers an action on a drive that answers with the drive as it then is.
func act[I any](
	api huma.API,
	a *app.App,
	method, path, id, summary string,
	do func(ctx context.Context, in *I) (driveID string, who base.Actor, err error),
) {
	huma.Register(api, huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, MaxBodyBytes: drivefile.MaxJSON},
		func(ctx context.Context, in *I) (*viewOut, error) {
			driveID, by, err := do(ctx, in)
			if err != nil {
				return nil, problem(err)
			}
			v, err := a.Drive(ctx, by, driveID)
			return &viewOut{v}, problem(err)
		})
}

func get[I, O any](api huma.API, path, id, summary string, do func(ctx context.Context, in *I) (O, error)) {
	type out struct{ Body O }
	huma.Register(api, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary},
		func(ctx context.Context, in *I) (*out, error) {
			b, err := do(ctx, in)
			return &out{b}, problem(err)
		})
}

func post[I, O any](api huma.API, path, id, summary string, do func(ctx context.Context, in *I) (O, error)) {
	type out struct{ Body O }
	huma.Register(api, huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary,
		MaxBodyBytes: drivefile.MaxJSON}, func(ctx context.Context, in *I) (*out, error) {
		b, err := do(ctx, in)
		return &out{b}, problem(err)
	})
}

func routes(api huma.API, a *app.App) {
	placeRoutes(api, a)
	driveRoutes(api, a)
	linkRoutes(api, a)
	fileRoutes(api, a)
	familyRoutes(api, a)
	keypadRoutes(api, a)
	energyRoutes(api, a)
}

func placeRoutes(api huma.API, a *app.App) {
	get(api, "/api/places", "places", "Places of this data folder",
		func(ctx context.Context, _ *struct{}) ([]yard.PlaceView, error) { return a.Places(ctx) })
	post(api, "/api/places", "create-place", "Make a place", func(ctx context.Context, in *struct {
		Body struct {
			ID     string                      `json:"id"`
			Name   string                      `json:"name"`
			Kind   string                      `json:"kind" enum:"real,simulated" doc:"for good"`
			Zone   string                      `json:"zone"`
			People map[string]drivefile.Person `json:"people"`
		}
	}) ([]yard.PlaceView, error) {
		if err := a.CreatePlace(ctx, in.Body.ID, in.Body.Name, in.Body.Kind, in.Body.Zone, in.Body.People); err != nil {
			return nil, err
		}
		return a.Places(ctx)
	})
	huma.Register(api, huma.Operation{OperationID: "change-place", Method: http.MethodPatch, Path: "/api/places/{id}",
		Summary: "Edit a place"}, func(ctx context.Context, in *struct {
		DrivePath
		Body drives.Edit
	}) (*struct{ Body []yard.PlaceView }, error) {
		err := in.Body.Sendable()
		if err == nil {
			err = a.Change(ctx, in.actor(), in.ID, in.Body)
		}
		if err != nil {
			return nil, problem(err)
		}
		l, err := a.Places(ctx)
		return &struct{ Body []yard.PlaceView }{l}, problem(err)
	})
	post(api, "/api/places/{id}/energy", "record-energy", "Record the state of a supply", func(ctx context.Context, in *struct {
		DrivePath
		Body struct {
			ID     string           `json:"id"`
			Energy drivefile.Energy `json:"energy"`
		}
	}) ([]yard.PlaceView, error) {
		if err := a.RecordEnergy(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Energy); err != nil {
			return nil, err
		}
		return a.Places(ctx)
	})
	get(api, "/api/places/{id}/yard", "yard", "Drives of a place", func(ctx context.Context, in *struct {
		ID     string `path:"id"`
		Q      string `query:"q" doc:"every word must stand somewhere on the drive"`
		Filter string `query:"filter" enum:"all,work,barred,again,archived"`
		Offset int    `query:"offset" minimum:"0"`
		Limit  int    `query:"limit" minimum:"0" maximum:"500"`
	}) (yard.YardPage, error) {
		return a.Yard(ctx, yard.Query{Place: in.ID, Text: in.Q, Filter: in.Filter, Offset: in.Offset, Limit: in.Limit})
	})
}

func driveRoutes(api huma.API, a *app.App) {
	act(api, a, http.MethodPost, "/api/drives", "create-drive", "Make a drive", func(ctx context.Context, in *struct {
		Who
		Body drives.NewDrive
	}) (string, base.Actor, error) {
		_, err := a.CreateDrive(ctx, in.actor(), in.Body)
		return in.Body.ID, in.actor(), err
	})
	act(api, a, http.MethodGet, "/api/drives/{id}", "drive", "A drive with what holds now",
		func(_ context.Context, in *DrivePath) (string, base.Actor, error) {
			return in.ID, in.actor(), nil
		})
	changeRoute(api, a)
	act(api, a, http.MethodPost, "/api/drives/{id}/undo", "undo", "Take back one's own last edit", func(ctx context.Context, in *struct {
		DrivePath
		Body struct {
			ID string `json:"id"`
		}
	}) (string, base.Actor, error) {
		return in.ID, in.actor(), a.Undo(ctx, in.actor(), in.ID, in.Body.ID)
	})
	act(api, a, http.MethodPost, "/api/drives/{id}/readings", "read-setting", "A setting as read on the keypad; = agrees by eye",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID   string `json:"id"`
				Code string `json:"code"`
				Text string `json:"text"`
			}
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.Read(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Code, in.Body.Text)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/decisions", "decide", "Keep a finding, waive or confirm a check, pass a gate",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID     string `json:"id"`
				Type   string `json:"type" enum:"keep,waive,confirm,pass"`
				Key    string `json:"key"`
				Reason string `json:"reason,omitempty"`
				Seen   string `json:"seen,omitempty" doc:"of a finding that is kept: its detail as it was shown; another now refuses it"`
				// Basis is what a check that is waived rested on as it was shown.
				Basis map[string]string `json:"basis,omitempty" doc:"of a check that is waived: what it rested on as it was shown; another now refuses it"`
			}
		}) (string, base.Actor, error) {
			b, by := in.Body, in.actor()
			switch b.Type {
			case "keep":
				return in.ID, by, a.Keep(ctx, by, in.ID, b.ID, b.Key, b.Reason, b.Seen)
			case "waive":
				return in.ID, by, a.WaiveShown(ctx, by, in.ID, b.ID, b.Key, b.Reason, b.Basis)
			case "confirm":
				return in.ID, by, a.Confirm(ctx, by, in.ID, b.ID, b.Key)
			}
			return in.ID, by, a.Pass(ctx, by, in.ID, b.ID, b.Key)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/withdrawals", "withdraw", "Take an entry back; it stays in the record",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID     string `json:"id"`
				Entry  string `json:"entry"`
				Reason string `json:"reason" doc:"why it is taken back"`
			}
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.Withdraw(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Entry, in.Body.Reason)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/snapshots", "snapshot", "Keep the settings as they stand",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID    string `json:"id"`
				Name  string `json:"name" enum:"as-found,as-planned,as-left,builders-preset"`
				Label string `json:"label,omitempty"`
			}
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.Snapshot(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Name, in.Body.Label)
		})
	get(api, "/api/drives/{id}/compare", "compare", "Two snapshots side by side", func(ctx context.Context, in *struct {
		ID string `path:"id"`
		A  string `query:"a" required:"true"`
		B  string `query:"b" required:"true"`
	}) ([]entries.CompareRow, error) {
		return a.Compare(ctx, in.ID, in.A, in.B)
	})
	post(api, "/api/drives/{id}/take", "take", "Fill in what nobody decided from what the drive holds",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID string `json:"id"`
			}
		}) (drives.TakeResult, error) {
			return a.TakeReadings(ctx, in.actor(), in.ID, in.Body.ID)
		})
	get(api, "/api/drives/{id}/move", "move", "What becomes of the settings on a drive of another family",
		func(ctx context.Context, in *struct {
			ID      string `path:"id"`
			To      string `query:"to" required:"true" doc:"the other family"`
			Current string `query:"current" doc:"the other drive's rated current, as typed"`
		}) ([]families.MoveRow, error) {
			return a.Move(ctx, in.ID, in.To, in.Current)
		})
	get(api, "/api/drives/{id}/history", "history", "What happened to a drive, newest first",
		func(ctx context.Context, in *DrivePath) ([]yard.HistoryRow, error) {
			return a.History(ctx, in.ID)
		})
}

func linkRoutes(api huma.API, a *app.App) {
	post(api, "/api/drives/{id}/link/read", "link-read", "Read every setting from the drive", func(ctx context.Context, in *struct {
		DrivePath
		Body struct {
			Snapshot string `json:"snapshot,omitempty" doc:"as-found, as-left or nothing"`
		}
	}) (links.LinkResult, error) {
		return a.ReadDrive(ctx, in.actor(), in.ID, in.Body.Snapshot, nil)
	})
	get(api, "/api/drives/{id}/link", "link-progress", "How far a read that is under way has come",
		func(_ context.Context, in *DrivePath) (links.LinkProgress, error) {
			return a.LinkProgress(in.ID), nil
		})
	post(api, "/api/drives/{id}/link/write", "link-write", "Write one setting as planned, and read it back",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID    string `json:"id"`
				Code  string `json:"code"`
				Clear bool   `json:"clear,omitempty" doc:"this person confirms that the area is clear"`
			}
		}) (links.LinkResult, error) {
			return a.WriteSetting(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Code, in.Body.Clear)
		})
}

func fileRoutes(api huma.API, a *app.App) {
	upload := func(id, path, summary string, limit int64) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, MaxBodyBytes: limit + 1<<20}
	}
	huma.Register(api, upload("attach", "/api/drives/{id}/attachments", "Keep a photo or PDF with the drive", drivefile.MaxAttachment),
		func(ctx context.Context, in *struct {
			DrivePath
			Entry   string `query:"entry" required:"true" doc:"UUIDv7 made by the client"`
			Name    string `query:"name"`
			Of      string `query:"of"`
			RawBody []byte `contentType:"application/octet-stream"`
		}) (*viewOut, error) {
			if err := a.Attach(ctx, in.actor(), in.ID, in.Entry, in.Name, in.Of, in.RawBody); err != nil {
				return nil, problem(err)
			}
			v, err := a.Drive(ctx, in.actor(), in.ID)
			return &viewOut{v}, problem(err)
		})
	huma.Register(api, upload("read-csv", "/api/drives/{id}/readings.csv", "Readings from a list", drivefile.MaxJSON),
		func(ctx context.Context, in *struct {
			DrivePath
			RawBody []byte `contentType:"text/csv"`
		}) (*struct{ Body lists.CSVResult }, error) {
			res, err := a.ReadCSV(ctx, in.actor(), in.ID, in.RawBody)
			return &struct{ Body lists.CSVResult }{res}, problem(err)
		})
	huma.Register(api, upload("add-family", "/api/families", "Add a drive family from its file", drivefile.MaxDialect),
		func(ctx context.Context, in *struct {
			Who
			RawBody []byte `contentType:"application/yaml"`
		}) (*struct{ Body base.FamilyHead }, error) {
			f, err := a.AddFamily(ctx, in.actor(), in.RawBody)
			return &struct{ Body base.FamilyHead }{f}, problem(err)
		})
	fetch := func(id, path, summary string, do func(ctx context.Context, in *DrivePath) (*file, error)) {
		huma.Register(api, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary}, do)
	}
	fetch("attachment", "/api/attachments/{id}", "A kept file", func(ctx context.Context, in *DrivePath) (*file, error) {
		typ, b, err := a.Attachment(ctx, in.ID)
		if err != nil {
			return nil, problem(err)
		}
		if !base.Shown(typ) { // whatever it is, it is no page of this program
			return download(in.ID[:min(12, len(in.ID))], "application/octet-stream", b, nil)
		}
		return &file{typ, "inline", b}, nil
	})
	get(api, "/api/places/{id}/arrivals", "arrivals", "What came in here, and who brought it",
		func(ctx context.Context, in *DrivePath) ([]families.Arrival, error) {
			return a.Arrivals(ctx, in.ID)
		})
	// named gives a download the drive's tag, so that it is found again in a folder.
	named := func(ctx context.Context, in *DrivePath, what string) string {
		v, err := a.Drive(ctx, in.actor(), in.ID)
		if err != nil {
			return what
		}
		tag := strings.Map(func(r rune) rune {
			if r == '-' || r == '_' || unicode.IsLetter(r) && r < 128 || unicode.IsDigit(r) {
				return r
			}
			return '_'
		}, v.Drive.Tag)
		return strings.TrimLeft(tag+"-"+what, "-")
	}
	wiringRoutes(api, a, fetch, named)
	stopRoutes(api, a, fetch, named)
	spanRoutes(api, a)
	benchRoutes(api, a, fetch, named)
	fetch("sheet-csv", "/api/drives/{id}/sheet.csv", "The settings sheet as a list",
		func(ctx context.Context, in *DrivePath) (*file, error) {
			b, err := a.SheetCSV(ctx, in.ID)
			return download(named(ctx, in, "settings.csv"), "text/csv; charset=utf-8", b, err)
		})
	huma.Register(api, huma.Operation{OperationID: "configuration", Method: http.MethodGet, Path: "/api/drives/{id}/planned.dcf",
		Summary: "The plan as a device configuration file"}, func(ctx context.Context, in *struct {
		DrivePath
		Node int `query:"node" default:"1" doc:"the drive's number on the bus, 1 to 127"`
	}) (*file, error) {
		b, err := a.Configuration(ctx, in.ID, in.Node)
		return download(named(ctx, &in.DrivePath, "planned.dcf"), "text/plain; charset=utf-8", b, err)
	})
	fetch("record-pdf", "/api/drives/{id}/record.pdf", "The drive's record", func(ctx context.Context, in *DrivePath) (*file, error) {
		b, err := a.Record(ctx, in.ID)
		return download(named(ctx, in, "record.pdf"), "application/pdf", b, err)
	})
	fetch("isolation-pdf", "/api/drives/{id}/isolation.pdf", "The isolation sheet",
		func(ctx context.Context, in *DrivePath) (*file, error) {
			b, err := a.IsolationSheet(ctx, in.ID)
			return download(named(ctx, in, "isolation.pdf"), "application/pdf", b, err)
		})
	fetch("holes-pdf", "/api/drives/{id}/holes.pdf", "The hole pattern of its frame, 1:1",
		func(ctx context.Context, in *DrivePath) (*file, error) {
			b, err := a.HolePattern(ctx, in.ID)
			return download(named(ctx, in, "holes.pdf"), "application/pdf", b, err)
		})
	bundleRoutes(api, a, named)
}
