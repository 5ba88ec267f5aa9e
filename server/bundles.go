package server

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"tingate/app"
	"tingate/app/exchange"
	"tingate/core/drivefile"
)

// incoming is a body of any size: it goes to disk as it comes, never into memory whole.
type incoming struct {
	Who
	body io.Reader
}

// Resolve keeps the body to be read by the handler.
func (i *incoming) Resolve(ctx huma.Context) []error {
	i.body = ctx.BodyReader()
	return nil
}

// bundleRoutes take bundles in and give them out, as streams.
func bundleRoutes(api huma.API, a *app.App, named func(context.Context, *DrivePath, string) string) {
	huma.Register(api, huma.Operation{OperationID: "import", Method: http.MethodPost, Path: "/api/import", Summary: "Take a bundle"},
		func(ctx context.Context, in *incoming) (*struct{ Body exchange.ImportResult }, error) {
			res, err := a.ImportStream(ctx, in.actor(), io.LimitReader(in.body, drivefile.MaxBundle+1))
			return &struct{ Body exchange.ImportResult }{res}, problem(err)
		})
	huma.Register(api, huma.Operation{OperationID: "drive-bundle", Method: http.MethodGet, Path: "/api/drives/{id}/bundle.zip",
		Summary: "The drive as a bundle"}, func(ctx context.Context, in *DrivePath) (*huma.StreamResponse, error) {
		v, err := a.Drive(ctx, in.actor(), in.ID)
		if err != nil {
			return nil, problem(err)
		}
		return streamed(ctx, a, named(ctx, in, "drive.tingate.zip"), v.Drive.Place, exchange.Selection{Drive: in.ID})
	})
	huma.Register(api, huma.Operation{OperationID: "place-bundle", Method: http.MethodGet, Path: "/api/places/{id}/bundle.zip",
		Summary: "The place as a bundle, or a part of it"}, func(ctx context.Context, in *struct {
		ID    string `path:"id"`
		Part  int    `query:"part" minimum:"0" doc:"which part, from 1; 0: all in one"`
		Parts int    `query:"parts" minimum:"0" maximum:"1000" doc:"of how many"`
	}) (*huma.StreamResponse, error) {
		name := "place.tingate.zip"
		if in.Parts > 1 {
			name = fmt.Sprintf("place-%d-of-%d.tingate.zip", in.Part, in.Parts)
		}
		return streamed(ctx, a, name, in.ID, exchange.Selection{Part: in.Part, Parts: in.Parts})
	})
}

// streamed writes a bundle as it is made. What fails before its first byte is answered as a problem; what fails later cuts the connection,
// so that nobody takes half a bundle for a whole one.
func streamed(ctx context.Context, a *app.App, name, place string, sel exchange.Selection) (*huma.StreamResponse, error) {
	if err := a.CanExport(ctx, place, sel); err != nil {
		return nil, problem(err)
	}
	return &huma.StreamResponse{Body: func(c huma.Context) {
		c.SetHeader("Content-Type", "application/zip")
		c.SetHeader("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
		if err := a.ExportTo(c.Context(), c.BodyWriter(), place, sel); err != nil {
			slog.Error("an export failed", "error", err)
			panic(http.ErrAbortHandler)
		}
	}}, nil
}
