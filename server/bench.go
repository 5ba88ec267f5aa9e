package server

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/benches"
	"tingate/app/links"
	"tingate/app/recordings"
	"tingate/bench"
)

// frameEvery is the time between two frames of a bench that is watched: 20 a second.
const frameEvery = 50 * time.Millisecond

func benchRoutes(
	api huma.API,
	a *app.App,
	fetch func(id, path, summary string, do func(context.Context, *DrivePath) (*file, error)),
	named func(context.Context, *DrivePath, string) string,
) {
	get(api, "/api/drives/{id}/bench", "bench", "The simulated drive of a drive, as it stands", func(ctx context.Context, in *struct {
		ID    string  `path:"id"`
		After float64 `query:"after" doc:"samples newer than this time, s"`
	}) (benches.BenchView, error) {
		return a.Bench(ctx, in.ID, in.After)
	})
	post(api, "/api/drives/{id}/bench", "set-up-bench", "Build a bench out of the drive's own figures",
		func(ctx context.Context, in *struct {
			DrivePath
			Body benches.BenchSetup
		}) (benches.BenchView, error) {
			return a.SetUpBench(ctx, in.ID, in.Body)
		})
	post(api, "/api/drives/{id}/bench/acts", "bench-act", "Do something to the bench of this process; never to a real drive",
		func(_ context.Context, in *struct {
			DrivePath
			Body bench.Act
		}) (benches.BenchView, error) {
			return a.BenchDo(in.ID, in.Body)
		})
	post(api, "/api/drives/{id}/bench/beside", "bench-beside", "Ride the plan on two benches, and lay them over one another",
		func(ctx context.Context, in *struct {
			DrivePath
			Body benches.BesideWant
		}) (benches.Beside, error) {
			return a.Beside(ctx, in.ID, in.Body)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/bench/traces", "keep-trace", "Keep what the bench has recorded with the drive",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID   string `json:"id"`
				Name string `json:"name"`
			}
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.KeepTrace(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Name)
		})
	get(api, "/api/traces/{id}", "trace", "A kept trace, by its hash",
		func(ctx context.Context, in *DrivePath) (recordings.TraceView, error) { return a.Trace(ctx, in.ID) })
	fetch("trace-table", "/api/traces/{id}/table.csv", "A kept trace as a table", func(ctx context.Context, in *DrivePath) (*file, error) {
		b, err := a.TraceTable(ctx, in.ID)
		return download("trace.csv", "text/csv; charset=utf-8", b, err)
	})
	act(api, a, http.MethodPost, "/api/drives/{id}/tune", "take-tune",
		"Read what a tune left in the drive or its bench over the link, as the result of gate Tune; nothing is written there",
		func(ctx context.Context, in *struct {
			DrivePath
			Body links.TuneTaken
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.TakeTune(ctx, in.actor(), in.ID, in.Body)
		})
	huma.Register(api, huma.Operation{OperationID: "end-bench", Method: http.MethodDelete, Path: "/api/drives/{id}/bench",
		Summary: "End the bench"}, func(_ context.Context, in *DrivePath) (*struct{}, error) {
		a.EndBench(in.ID)
		return nil, nil
	})
	fetch("bench-trace", "/api/drives/{id}/bench/trace.csv", "What the bench has kept",
		func(ctx context.Context, in *DrivePath) (*file, error) {
			b, err := a.BenchTrace(in.ID)
			return download(named(ctx, in, "bench-trace.csv"), "text/csv; charset=utf-8", b, err)
		})
}

// benchLive streams frames of a bench while a screen watches it.
func benchLive(base context.Context, a *app.App) gin.HandlerFunc {
	return func(c *gin.Context) {
		c.Header("Content-Type", "text/event-stream")
		c.Header("X-Accel-Buffering", "no")
		after := -1.0
		t := time.NewTicker(frameEvery)
		defer t.Stop()
		for {
			v, err := a.Bench(c.Request.Context(), c.Param("id"), after)
			if err != nil || !v.There {
				return
			}
			if after >= 0 { // what can be broken was told with the first
				v.Faults = v.Faults[:0]
			}
			if n := len(v.Bench.Samples); n > 0 {
				after = v.Bench.Samples[n-1].Time
			}
			b, err := json.Marshal(v)
			if err != nil {
				return
			}
			if _, err := fmt.Fprintf(c.Writer, "data: %s\n\n", b); err != nil {
				return
			}
			c.Writer.Flush()
			select {
			case <-base.Done():
				return
			case <-c.Request.Context().Done():
				return
			case <-t.C:
			}
		}
	}
}
