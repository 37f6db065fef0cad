package applicant

import (
	"bytes"
	"net/http"

	"ulvant/internal/platform/tus"
	"ulvant/internal/web/kit/site"
)

// Arrive takes files in pieces, as tus 1.0.0 says. Its clock is read after the
// body is: a file is in time when its last byte was.
func Arrive(r *site.Request) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	q := tus.Request{Method: r.Method(), Path: r.Path(), Header: http.Header{}, Body: r.Body()}
	for name, value := range r.RequestCtx().Request.Header.All() {
		q.Header.Add(string(name), string(bytes.Clone(value)))
	}
	out, err := r.Materials.Arrive(r.Context, r.Actor(), r.Clock.Now(), r.Case, f,
		"/applications/"+r.Case.Ref+"/arriving/", q)
	if err != nil {
		return err
	}
	for name, values := range out.Header {
		r.Set(name, values[0])
	}
	return r.Status(out.Status).Send(out.Body)
}
