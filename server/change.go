package server

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/drives"
	"tingate/core/drivefile"
)

// briefOut is a drive's view, or nothing yet.
type briefOut struct {
	Status int
	Body   *base.View
}

// changeRoute takes edits of a drive. A person types faster than a plan is ridden: while more of their edits wait, each is stored and
// answered with nothing; the last is answered with the drive.
func changeRoute(api huma.API, a *app.App) {
	huma.Register(api, huma.Operation{OperationID: "change-drive", Method: http.MethodPatch, Path: "/api/drives/{id}",
		Summary: "Edit fields as typed", MaxBodyBytes: drivefile.MaxJSON}, func(ctx context.Context, in *struct {
		DrivePath
		More bool `query:"more" doc:"another edit follows at once: this one is stored, and answered 202 with null"`
		Body drives.Edit
	}) (*briefOut, error) {
		err := in.Body.Sendable()
		if err == nil {
			err = a.Change(ctx, in.actor(), in.ID, in.Body)
		}
		if err != nil {
			return nil, problem(err)
		}
		if in.More {
			return &briefOut{Status: http.StatusAccepted}, nil
		}
		v, err := a.Drive(ctx, in.actor(), in.ID)
		return &briefOut{Status: http.StatusOK, Body: &v}, problem(err)
	})
}
