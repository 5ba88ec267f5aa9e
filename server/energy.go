package server

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/entries"
	"tingate/app/families"
	"tingate/app/yard"
	"tingate/core/drivefile"
)

func energyRoutes(api huma.API, a *app.App) {
	get(api, "/api/practices", "practices", "Practices, and the questions that they answer",
		func(context.Context, *struct{}) (families.PracticeList, error) { return a.Practices(), nil })
	huma.Register(api, huma.Operation{OperationID: "add-practice", Method: http.MethodPost, Path: "/api/practices",
		Summary: "Add a practice from its file", MaxBodyBytes: drivefile.MaxJSON}, func(ctx context.Context, in *struct {
		Who
		RawBody []byte `contentType:"application/yaml"`
	}) (*struct{ Body families.PracticeList }, error) {
		l, err := a.AddPractice(ctx, in.actor(), in.RawBody)
		return &struct{ Body families.PracticeList }{l}, problem(err)
	})
	get(api, "/api/drives/{id}/practice-effect", "practice-effect", "What another practice would change",
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
			To string `query:"to" required:"true"`
		}) ([]families.PracticeChange, error) {
			return a.PracticeEffect(ctx, in.ID, in.To)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/answers", "answer-check", "Answer a check: confirm, choose, measure",
		func(ctx context.Context, in *struct {
			DrivePath
			Body entries.CheckAnswer
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.AnswerCheck(ctx, in.actor(), in.ID, in.Body)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/dead", "prove-dead", "Record every supply dead, once all that proves it holds",
		func(ctx context.Context, in *DrivePath) (string, base.Actor, error) {
			return in.ID, in.actor(), a.ProveDead(ctx, in.actor(), in.ID)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/temporary", "put-temporary", "A thing that must not stay in",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID    string              `json:"id"`
				Thing drivefile.Temporary `json:"thing"`
			}
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.PutTemporary(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Thing)
		})
	act(api, a, http.MethodPost, "/api/drives/{id}/temporary/gone", "take-temporary", "A temporary thing is out again",
		func(ctx context.Context, in *struct {
			DrivePath
			Body struct {
				ID    string `json:"id"`
				Entry string `json:"entry"`
				How   string `json:"how,omitempty"`
			}
		}) (string, base.Actor, error) {
			return in.ID, in.actor(), a.TakeTemporary(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Entry, in.Body.How)
		})
	post(api, "/api/places/{id}/locks", "lock", "What a person does with a lock", func(ctx context.Context, in *struct {
		DrivePath
		Body struct {
			ID   string         `json:"id"`
			Lock drivefile.Lock `json:"lock"`
		}
	}) ([]yard.PlaceView, error) {
		if err := a.Lock(ctx, in.actor(), in.ID, in.Body.ID, in.Body.Lock); err != nil {
			return nil, err
		}
		return a.Places(ctx)
	})
}
