package server

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"tingate/app/base"
	"tingate/core/drivefile"
)

// FieldProblem names a field, what was read and what was expected, in the words of calc.
type FieldProblem struct {
	Field string `json:"field"`
	Got   string `json:"got"`
	Want  string `json:"want"`
}

// Problem is an error answer, RFC 9457.
type Problem struct {
	Type     string         `json:"type"`
	Title    string         `json:"title"`
	Status   int            `json:"status"`
	Detail   string         `json:"detail"`
	Errors   []FieldProblem `json:"errors"`
	Conflict *Conflict      `json:"conflict,omitempty"`
}

// Conflict holds both values when somebody else changed the same field.
type Conflict struct {
	Path   string `json:"path"`
	Yours  string `json:"yours"`
	Theirs string `json:"theirs"`
	By     string `json:"by"`
	At     string `json:"at"`
}

func (p *Problem) Error() string  { return p.Detail }
func (p *Problem) GetStatus() int { return p.Status }

// ContentType is application/problem+json for JSON answers.
func (p *Problem) ContentType(ct string) string {
	if ct == "application/json" {
		return "application/problem+json"
	}
	return ct
}

func init() {
	huma.NewError = func(status int, msg string, errs ...error) huma.StatusError {
		p := &Problem{Type: "about:blank", Title: http.StatusText(status), Status: status, Detail: msg, Errors: []FieldProblem{}}
		for _, e := range errs {
			var d *huma.ErrorDetail
			if errors.As(e, &d) {
				p.Errors = append(p.Errors, FieldProblem{strings.TrimPrefix(d.Location, "body."), fmt.Sprint(d.Value), d.Message})
			} else if e != nil {
				p.Errors = append(p.Errors, FieldProblem{Want: e.Error()})
			}
		}
		return p
	}
}

// problem turns an action's error into an answer: what happened, what was kept, what to do.
func problem(err error) error {
	if err == nil {
		return nil
	}
	p := func(status int, fields ...FieldProblem) *Problem {
		if fields == nil {
			fields = []FieldProblem{}
		}
		return &Problem{Type: "about:blank", Title: http.StatusText(status), Status: status, Detail: err.Error(), Errors: fields}
	}
	var in *base.InputError
	var fe *drivefile.FieldError
	var refused *base.RefusedError
	var conflict *base.ConflictError
	var newer *drivefile.NewerSchemaError
	var disk *base.DiskError
	switch {
	case errors.As(err, &in):
		return p(http.StatusUnprocessableEntity, FieldProblem{in.Field, in.Got, in.Want})
	case errors.As(err, &fe):
		return p(http.StatusUnprocessableEntity, FieldProblem{fe.Field, fe.Got, fe.Want})
	case errors.As(err, &refused):
		return p(http.StatusConflict)
	case errors.As(err, &conflict):
		out := p(http.StatusConflict)
		out.Conflict = &Conflict{conflict.Path, conflict.Yours, conflict.Theirs, conflict.By, conflict.At}
		return out
	case errors.As(err, &newer):
		return p(http.StatusUnprocessableEntity)
	case errors.Is(err, base.ErrNotFound):
		out := p(http.StatusNotFound)
		out.Detail = "There is nothing of this id here."
		return out
	case errors.As(err, &disk):
		slog.Error("the disk or the folder fails", "what", disk.What, "error", disk.Err)
		out := p(http.StatusInsufficientStorage)
		out.Detail = disk.What
		return out
	case errors.Is(err, context.Canceled):
		return p(499)
	}
	slog.Error("request failed", "error", err)
	out := p(http.StatusInternalServerError)
	out.Detail = "Something failed in Tin Gate; nothing of this was stored. The log has the details."
	return out
}
