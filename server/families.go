package server

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/families"
	"tingate/app/links"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/learn"
	"tingate/core/sheet"
	"tingate/formats/familyfile"
)

// FamilyPath is the family, and the version when not the newest, that a request is about.
type FamilyPath struct {
	Name    string `path:"name"`
	Version string `query:"version" doc:"empty: the newest"`
}

func findRoutes(api huma.API, a *app.App) {
	get(api, "/api/find", "find", "Find over all families: a code, a word, a meaning, a class of fault, a lamp, or what one wants to do",
		func(_ context.Context, in *struct {
			Q string `query:"q" maxLength:"200"`
		}) ([]dialect.Hit, error) {
			return a.Find(in.Q), nil
		})
	get(api, "/api/glossary", "glossary", "Terms of the trade, with other words for them and what they are taken for",
		func(context.Context, *struct{}) ([]dialect.Term, error) { return dialect.Glossary, nil })
	get(api, "/api/places/{id}/families", "place-families", "The drives of a place by their family",
		func(ctx context.Context, in *DrivePath) ([]families.DrivesOf, error) {
			return a.DrivesByFamily(ctx, in.ID)
		})
}

func familyRoutes(api huma.API, a *app.App) {
	findRoutes(api, a)
	get(api, "/api/families", "families", "Drive families",
		func(context.Context, *struct{}) ([]base.FamilyHead, error) { return a.Families(), nil })
	get(api, "/api/families/{name}", "family", "What a family's file tells",
		func(_ context.Context, in *FamilyPath) (families.FamilyManual, error) {
			return a.Manual(in.Name, in.Version)
		})
	get(api, "/api/families/{name}/draft", "family-draft", "A family as rows to be changed",
		func(_ context.Context, in *FamilyPath) (familyfile.Draft, error) {
			return a.DraftOf(in.Name, in.Version)
		})
	roleRoutes(api)
	large := func(id, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary,
			MaxBodyBytes: 2 * drivefile.MaxDialect}
	}
	huma.Register(api, large("read-list", "/api/families/list", "Read a settings list and propose what it holds"),
		func(_ context.Context, in *struct {
			Body struct {
				Text     string         `json:"text,omitempty" doc:"as pasted; or a file"`
				File     []byte         `json:"file,omitempty" doc:"CSV, TSV, XLSX, EDS or DCF"`
				Name     string         `json:"name,omitempty" doc:"of the file"`
				Mapping  map[string]int `json:"mapping,omitempty" doc:"role to column, from 0; missing: proposed"`
				Sheet    string         `json:"sheet,omitempty" doc:"of a workbook; empty: the one with most rows, of those shown"`
				Counting string         `json:"counting,omitempty" enum:"as-sent,from-1,from-40001,from-400001," doc:"of register numbers; empty: proposed"`
			}
		}) (*struct{ Body familyfile.List }, error) {
			raw := in.Body.File
			if raw == nil {
				raw = []byte(in.Body.Text)
			}
			l, err := a.ReadList(in.Body.Name, raw,
				familyfile.Asked{Mapping: in.Body.Mapping, Sheet: in.Body.Sheet, Counting: in.Body.Counting})
			return &struct{ Body familyfile.List }{l}, problem(err)
		})
	huma.Register(api, large("check-draft", "/api/families/draft", "Check a family being made; keep it when nothing is wrong"),
		func(ctx context.Context, in *struct {
			Who
			Keep bool `query:"keep"`
			Body familyfile.Draft
		}) (*struct{ Body families.DraftCheck }, error) {
			c, err := a.CheckDraft(ctx, in.actor(), in.Body, in.Keep)
			return &struct{ Body families.DraftCheck }{c}, problem(err)
		})
	huma.Register(api, large("merge-draft", "/api/families/draft/merge", "Put into a draft what others changed since it was begun"),
		func(_ context.Context, in *struct {
			Who
			Body familyfile.Draft
		}) (*struct{ Body familyfile.Merged }, error) {
			m, err := a.MergeDraft(in.Body)
			return &struct{ Body familyfile.Merged }{m}, problem(err)
		})
	huma.Register(api, huma.Operation{OperationID: "family-file", Method: http.MethodGet, Path: "/api/families/{name}/file.yaml",
		Summary: "A family's file"}, func(_ context.Context, in *FamilyPath) (*file, error) {
		raw, err := a.FamilyFile(in.Name, in.Version)
		return download(in.Name+".yaml", "application/yaml", raw, err)
	})
}

func roleRoutes(api huma.API) {
	get(api, "/api/roles", "roles", "What a setting can carry, and how it can be counted",
		func(context.Context, *struct{}) ([]dialect.Role, error) { return dialect.Roles(), nil })
	get(api, "/api/doings", "doings", "What a setting can do besides carrying an intent",
		func(context.Context, *struct{}) ([]dialect.Doing, error) { return dialect.Doings(), nil })
}

func keypadRoutes(api huma.API, a *app.App) {
	get(api, "/api/drives/{id}/settings", "settings", "Every setting with what was done to it",
		func(ctx context.Context, in *DrivePath) ([]sheet.SettingRow, error) {
			return a.Settings(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/sent", "sent", "Every request that wrote to the drive",
		func(ctx context.Context, in *DrivePath) ([]sheet.Sent, error) {
			return a.Sent(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/route", "route", "The way through the keypad for what is to be entered",
		func(ctx context.Context, in *struct {
			ID      string `path:"id"`
			At      string `query:"at" doc:"code where the keypad stands; empty: its home display"`
			Running bool   `query:"running"`
			Remote  bool   `query:"remote"`
		}) (drives.Route, error) {
			return a.KeypadRoute(ctx, in.ID, in.At, in.Running, in.Remote)
		})
	type code struct {
		ID     string `json:"id"`
		Code   string `json:"code"`
		Reason string `json:"reason,omitempty"`
	}
	act(api, a, http.MethodPost, "/api/drives/{id}/entered", "enter-setting", "A planned value was set on the keypad",
		func(ctx context.Context, in *struct {
			DrivePath
			Body code
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.Enter(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Code)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/as-delivered", "leave-as-delivered", "A setting stays at its delivery value on purpose",
		func(ctx context.Context, in *struct {
			DrivePath
			Body code
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.LeaveAsDelivered(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Code, in.Body.Reason)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/heard", "hear-setting", "A setting read aloud by one person and typed by another",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID     string `json:"id"`
				Code   string `json:"code"`
				Text   string `json:"text"`
				ReadBy string `json:"read_by"`
			}
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.Heard(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Code, in.Body.Text, in.Body.ReadBy)
		})
	get(api, "/api/drives/{id}/family-effect", "family-effect", "What another version of the family's file would change",
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
			To string `query:"to" required:"true"`
		}) (families.FamilyUpdate, error) {
			return a.FamilyEffect(ctx, in.ID, in.To)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/family-version", "take-family", "Use another version of the family's file",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID      string `json:"id"`
				Version string `json:"version"`
			}
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.TakeFamily(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Version)
		})
	post(api, "/api/drives/{id}/link/learn", "link-learn", "Look for some seconds which registers answer, or read them; nothing is written",
		func(ctx context.Context, in *struct {
			DrivePath
			Body links.LearnAsk
		}) (links.LearnStep, error) {
			return a.Learn(ctx, in.actor(), in.ID, in.Body)
		})
	post(api, "/api/learn/compare", "learn-compare", "In which registers what was shown can lie, out of readings before and after a change",
		func(_ context.Context, in *struct {
			Body struct {
				Chart    learn.Chart  `json:"chart"`
				Kind     string       `json:"kind" enum:"setting,figure"`
				Readings []learn.Pass `json:"readings"`
			}
		}) (learn.Learnt, error) {
			return a.CompareReadings(in.Body.Chart, in.Body.Kind, in.Body.Readings)
		})
	post(api, "/api/drives/{id}/link/probe", "link-probe", "Ask which family and size answers at the drive's address",
		func(ctx context.Context, in *DrivePath) ([]links.Probed, error) {
			return a.ProbeDrive(ctx, in.actor(), in.ID)
		})
}
