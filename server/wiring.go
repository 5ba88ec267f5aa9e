package server

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"tingate/app"
	"tingate/app/lists"
	"tingate/core/drivefile"
	"tingate/core/gate"
)

func wiringRoutes(
	api huma.API,
	a *app.App,
	fetch func(id, path, summary string, do func(context.Context, *DrivePath) (*file, error)),
	named func(context.Context, *DrivePath, string) string,
) {
	get(api, "/api/drives/{id}/wiring", "wiring", "The connection list, with what was landed, measured and found",
		func(ctx context.Context, in *DrivePath) (gate.WiringState, error) {
			return a.Wiring(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/wiring/unseen", "wiring-unseen", "Mis-landings that no reading from end to end would show",
		func(ctx context.Context, in *DrivePath) (lists.Unseen, error) {
			return a.Unseen(ctx, in.ID)
		})
	fetch("wiring-csv", "/api/drives/{id}/wiring.csv", "The connection list", func(ctx context.Context, in *DrivePath) (*file, error) {
		b, err := a.WiringCSV(ctx, in.ID)
		return download(named(ctx, in, "connections.csv"), "text/csv; charset=utf-8", b, err)
	})
	fetch("wiring-pdf", "/api/drives/{id}/wiring.pdf", "The connection list as a sheet to work by",
		func(ctx context.Context, in *DrivePath) (*file, error) {
			b, err := a.WiringSheet(ctx, in.ID)
			return download(named(ctx, in, "connections.pdf"), "application/pdf", b, err)
		})
	fetch("wiring-json", "/api/drives/{id}/wiring.json", "The circuit: parts and wires",
		func(ctx context.Context, in *DrivePath) (*file, error) {
			b, err := a.WiringJSON(ctx, in.ID)
			return download(named(ctx, in, "circuit.json"), "application/json", b, err)
		})
	huma.Register(api, huma.Operation{OperationID: "import-wiring", Method: http.MethodPost, Path: "/api/drives/{id}/wiring",
		Summary: "Take a connection list, CSV or JSON", MaxBodyBytes: drivefile.MaxJSON}, func(ctx context.Context, in *struct {
		DrivePath
		RawBody []byte `contentType:"text/plain"`
	}) (*struct{ Body lists.WiringImport }, error) {
		res, err := a.ImportWiring(ctx, in.actor(), in.ID, in.RawBody)
		return &struct{ Body lists.WiringImport }{res}, problem(err)
	})
}
