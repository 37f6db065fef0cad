package applicant

import (
	"bytes"
	"context"
	"net/http"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/tus"
	"ulvant/internal/web/kit/site"
)

// OrderFiles keeps the order of a slot's files, as it was dragged.
func OrderFiles(r *site.Request) error {
	_, q, err := slotOf(r)
	if err != nil {
		return err
	}
	var ids []int64
	for _, v := range strings.Fields(r.FormValue("files")) {
		id, err := strconv.ParseInt(v, 10, 64)
		if err != nil {
			return fiber.ErrNotFound
		}
		ids = append(ids, id)
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Materials.Order(ctx, tx, r.Case, q.Key, ids)
	}); err != nil {
		return err
	}
	return r.SendStatus(fiber.StatusNoContent)
}

// Arrive takes files in pieces, as tus 1.0.0 says. Its clock is read after the
// body is: a file is in time when its last byte was.
func Arrive(r *site.Request) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	q := tus.Request{Method: r.Method(), Path: r.Path(), Header: http.Header{},
		Body: r.RequestCtx().PostBody()} // not copied: it is read before this returns
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
