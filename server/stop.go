package server

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"tingate/app"
	"tingate/app/circuits"
	"tingate/core/circuit"
	"tingate/core/drivefile"
	"tingate/core/stops"
)

func stopRoutes(
	api huma.API,
	a *app.App,
	fetch func(id, path, summary string, do func(context.Context, *DrivePath) (*file, error)),
	named func(context.Context, *DrivePath, string) string,
) {
	get(api, "/api/drives/{id}/stop", "stop", "The stop circuit with its tests, what was shown, and where a fault can be",
		func(ctx context.Context, in *DrivePath) (circuits.StopView, error) {
			return a.Stop(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/stop/smallest", "stop-smallest", "The smallest set of tests that still parts all single faults",
		func(ctx context.Context, in *DrivePath) (stops.Smallest, error) {
			return a.SmallestSet(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/stop/why", "stop-why", "Why single faults are out, or stay, by words of their text",
		func(ctx context.Context, in *struct {
			DrivePath
			Q string `query:"q"`
		}) ([]stops.Reason, error) {
			return a.StopWhy(ctx, in.ID, in.Q)
		})
	get(api, "/api/drives/{id}/stop/pulses", "stop-pulses", "What the test pulses of the circuit do to it",
		func(ctx context.Context, in *DrivePath) (stops.Trained, error) {
			return a.StopPulses(ctx, in.ID)
		})
	post(api, "/api/drives/{id}/stop/play", "stop-play", "Play acts on the circuit as drawn; nothing real is commanded",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				Events []stops.Event    `json:"events"`
				Until  int              `json:"until_ms"`
				Fault  *circuit.Mistake `json:"fault,omitempty"`
			}
		}) (stops.Timing, error) {
			return a.PlayStop(ctx, in.ID, in.Body.Events, in.Body.Until, in.Body.Fault)
		})
	post(api, "/api/drives/{id}/stop/pairs", "stop-pairs", "Begin a search for two faults at once",
		func(ctx context.Context, in *DrivePath) (circuits.PairsJob, error) {
			return a.StartPairs(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/stop/pairs", "stop-pairs-progress", "How far the search has come",
		func(_ context.Context, in *DrivePath) (circuits.PairsJob, error) {
			return a.PairsProgress(in.ID), nil
		})
	huma.Register(api, huma.Operation{OperationID: "stop-pairs-end", Method: http.MethodDelete, Path: "/api/drives/{id}/stop/pairs",
		Summary: "End the search; what was found stays"},
		func(_ context.Context, in *DrivePath) (*struct{ Body circuits.PairsJob }, error) {
			a.EndPairs(in.ID)
			return &struct{ Body circuits.PairsJob }{a.PairsProgress(in.ID)}, nil
		})
	fetch("stop-json", "/api/drives/{id}/stop.json", "The stop circuit", func(ctx context.Context, in *DrivePath) (*file, error) {
		b, err := a.StopJSON(ctx, in.ID)
		return download(named(ctx, in, "stop-circuit.json"), "application/json", b, err)
	})
	fetch("stop-pdf", "/api/drives/{id}/stop.pdf", "The record of the stop circuit, to be signed",
		func(ctx context.Context, in *DrivePath) (*file, error) {
			b, err := a.StopRecord(ctx, in.ID)
			return download(named(ctx, in, "torque-off.pdf"), "application/pdf", b, err)
		})
	huma.Register(api, huma.Operation{OperationID: "import-stop", Method: http.MethodPost, Path: "/api/drives/{id}/stop",
		Summary: "Take a stop circuit in, as JSON", MaxBodyBytes: drivefile.MaxJSON}, func(ctx context.Context, in *struct {
		DrivePath
		RawBody []byte `contentType:"text/plain"`
	}) (*struct{ Body circuits.StopView }, error) {
		if err := a.ImportStop(ctx, in.actor(), in.ID, in.RawBody); err != nil {
			return nil, problem(err)
		}
		v, err := a.Stop(ctx, in.ID)
		return &struct{ Body circuits.StopView }{v}, problem(err)
	})
}
