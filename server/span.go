package server

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"tingate/app"
	"tingate/app/benches"
	"tingate/app/recordings"
	"tingate/bench/prove"
	"tingate/calc"
	"tingate/core/drivefile"
	"tingate/core/speeds"
	"tingate/core/troubleshoot"
	"tingate/formats/runfile"
)

// SpanPath is a drive with what is tried at gate Span.
type SpanPath struct {
	DrivePath
	Rise     float64 `query:"rise_s" doc:"s from standstill to the highest speed; 0: as planned"`
	Fall     float64 `query:"fall_s" doc:"s back; 0: as planned"`
	Resistor float64 `query:"resistor_ohm" doc:"0: as set, below 0: none"`
}

func (p SpanPath) try() benches.SpanTry {
	return benches.SpanTry{Rise: p.Rise, Fall: p.Fall, Resistor: p.Resistor}
}

func spanRoutes(api huma.API, a *app.App) {
	get(api, "/api/drives/{id}/span/ride", "span-ride",
		"The rise, the highest speed and the stop, as planned or as tried, with the full model",
		func(ctx context.Context, in *SpanPath) (benches.SpanRide, error) {
			return a.SpanRide(ctx, in.ID, in.try())
		})
	post(api, "/api/drives/{id}/span/inertia", "span-inertia",
		"A load's inertia at the motor, out of a body's figures or of a measured change of speed", func(ctx context.Context, in *struct {
			DrivePath
			Body calc.InertiaIn
		}) (benches.LoadInertia, error) {
			return a.SpanInertia(ctx, in.ID, in.Body)
		})
	get(api, "/api/drives/{id}/signal/scaling", "scaling",
		"The reference from the controller to the machine, with what is to be read at each point",
		func(ctx context.Context, in *DrivePath) (speeds.Scaling, error) {
			return a.Scaling(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/span/controls", "span-controls", "The ways to control this job's motor, each tried with the plan",
		func(ctx context.Context, in *DrivePath) (benches.Controls, error) {
			return a.Controls(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/span/bounds", "span-bounds", "The lowest and the highest speed with everything that bounds them",
		func(ctx context.Context, in *DrivePath) (speeds.Bounds, error) {
			return a.SpanBounds(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/span/bands", "span-bands", "What the motor's tolerances and the load's doubts do to the ride",
		func(ctx context.Context, in *SpanPath) (benches.SpanBands, error) {
			return a.SpanBands(ctx, in.ID, in.try())
		})
	post(api, "/api/drives/{id}/prove", "prove", "Run the plan on its own bench, and keep the outcome; nothing real is commanded",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID string `json:"id"`
			}
		}) (benches.ProofView, error) {
			return a.Prove(ctx, in.actor(), in.ID, in.Body.ID)
		})
	get(api, "/api/drives/{id}/prove", "prove-progress", "How far the proof under way has come",
		func(_ context.Context, in *DrivePath) (benches.ProofProgress, error) {
			return a.ProofProgress(in.ID), nil
		})
	huma.Register(api, huma.Operation{OperationID: "lay-over", Method: http.MethodPost, Path: "/api/drives/{id}/span/recorded",
		Summary: "Lay a recorded run, a CSV, over the plan's ride", MaxBodyBytes: drivefile.MaxAttachment},
		func(ctx context.Context, in *struct {
			DrivePath
			Entry   string `query:"entry" required:"true" doc:"UUIDv7 made by the client: the run is kept with the drive"`
			Name    string `query:"name"`
			Time    string `query:"time" doc:"column, by name or number; empty: by its usual names"`
			Speed   string `query:"speed"`
			Current string `query:"current"`
			RawBody []byte `contentType:"text/plain"`
		}) (*struct{ Body recordings.RunOver }, error) {
			v, err := a.LayOver(ctx, in.actor(), in.ID, in.Entry, in.Name, in.RawBody,
				runfile.Columns{Time: in.Time, Speed: in.Speed, Current: in.Current})
			return &struct{ Body recordings.RunOver }{v}, problem(err)
		})
	get(api, "/api/drives/{id}/span/runs", "runs", "The recorded runs that are kept with a drive, newest first",
		func(ctx context.Context, in *DrivePath) ([]recordings.RunKept, error) {
			return a.Runs(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/span/runs/{run}", "lay-kept", "A kept run, laid over the plan's ride", func(ctx context.Context, in *struct {
		DrivePath
		Run string `path:"run" doc:"hash of its trace"`
	}) (recordings.RunOver, error) {
		return a.LayKept(ctx, in.ID, in.Run)
	})
	post(api, "/api/drives/{id}/span/record", "record",
		"Record a run over the link: the drive is read again and again, and nothing is written to it",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID   string `json:"id"`
				From string `json:"from" enum:"link,bench"`
			}
		}) (recordings.Recording, error) {
			err := a.RecordRun(ctx, in.actor(), in.ID, in.Body.ID, in.Body.From)
			return a.Recording(in.ID), err
		})
	get(api, "/api/drives/{id}/span/record", "recording", "The recording that is under way, or how the last one ended",
		func(_ context.Context, in *DrivePath) (recordings.Recording, error) {
			return a.Recording(in.ID), nil
		})
	post(api, "/api/drives/{id}/span/record/stop", "stop-recording", "End the recording; what was read is kept. The motor is not touched",
		func(_ context.Context, in *DrivePath) (recordings.Recording, error) {
			a.StopRecording(in.ID)
			return a.Recording(in.ID), nil
		})
	get(api, "/api/drives/{id}/why-not", "why-not", "The running conditions of the drive, in order: known, or to be looked at",
		func(ctx context.Context, in *struct {
			DrivePath
			About string `query:"about" enum:"start,stands,unasked,direction,stop" default:"start"`
		}) ([]troubleshoot.StartCondition, error) {
			return a.WhyNot(ctx, in.ID, in.About)
		})
	post(api, "/api/drives/{id}/why-not/read", "why-not-read",
		"The same, with what the drive tells over the link; nothing is written to it", func(ctx context.Context, in *struct {
			DrivePath
			About string `query:"about" enum:"start,stands,unasked,direction,stop" default:"start"`
		}) ([]troubleshoot.StartCondition, error) {
			return a.WhyNotRead(ctx, in.actor(), in.ID, in.About)
		})
	get(api, "/api/drives/{id}/what-if", "what-if",
		"What the drive does when something happens while it runs, by the plan; and who gives what",
		func(ctx context.Context, in *DrivePath) (prove.WhatIfs, error) {
			return a.WhatIf(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/truth", "truth", "What the drive does with every combination of its inputs, by the plan",
		func(ctx context.Context, in *DrivePath) (prove.Truth, error) {
			return a.TruthTable(ctx, in.ID)
		})
	get(api, "/api/drives/{id}/span/shortest", "span-shortest", "The shortest rise and falls that hold",
		func(ctx context.Context, in *SpanPath) (benches.SpanShortest, error) {
			return a.SpanShortest(ctx, in.ID, in.try())
		})
}
