package applicant

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// version is an earlier text of one answer.
type version struct {
	Name, Label string // of the input
	Version     int
	Text        string
	By          string
	At          time.Time
}

// earlierPage is what applicant/earlier.html draws.
type earlierPage struct {
	D        *Desk
	Q        *form.Question
	Before   []version
	Standing []version
	May      bool
	Most     int
	Back     string
}

// Earlier lists the earlier versions of a question's answers beside those that
// stand.
func Earlier(r *site.Request) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	q := f.Question(form.Key(r.Params("question")))
	if q == nil {
		return fiber.ErrNotFound
	}
	d, err := load(r, string(f.SectionOf(q.Key)))
	if err != nil {
		return err
	}
	var now []version
	inputs, may := map[string]field.Input{}, false
	for _, fl := range d.Fields {
		if fl.Q.Key != q.Key {
			continue
		}
		may = !fl.ReadOnly
		for _, in := range fl.Inputs() {
			inputs[in.Name] = in
			if in.Value != "" || in.Non != "" {
				now = append(now, version{Label: labelOf(q, in), Text: written(in, in.Value, in.Non)})
			}
		}
	}
	list, err := r.Intake.EarlierOf(r.Context, r.DB, r.Case.EntryID, q.Key)
	if err != nil {
		return err
	}
	var before []version
	for _, e := range list {
		name := field.Name(e.Place)
		in, ok := inputs[name]
		v := version{Name: name, Label: labelOf(q, in), Version: e.Version, Text: written(in, e.Value, e.Non), By: e.By,
			At: e.At}
		if !ok { // of a line that is not there any more
			v.Name, v.Label = "", "a line taken out"
		}
		before = append(before, v)
	}
	return r.Draw(fiber.StatusOK, "applicant/earlier", view.Page{Title: "Earlier versions of " + q.Label,
		Nav: "applications", Data: earlierPage{D: d, Q: q, Before: before, Standing: now, May: may, Most: form.MostEarlier,
			Back: "/applications/" + r.Case.Ref + "/sections/" + string(f.SectionOf(q.Key)) + "#q-" + string(q.Key)}})
}

func labelOf(q *form.Question, in field.Input) string {
	if in.Name == string(q.Key) {
		return ""
	}
	return in.Label
}

// written is an answer as somebody reads it: the labels of what was picked.
func written(in field.Input, value string, non form.NonAnswer) string {
	if non != "" {
		return string(non)
	}
	if len(in.Options) == 0 {
		return value
	}
	var out []string
	for _, l := range form.Lines(value) {
		out = append(out, form.LabelOf(in.Options, l))
	}
	return strings.Join(out, "\n")
}

// BringBack makes an earlier version the answer.
func BringBack(r *site.Request) error {
	at, f := field.Place(r.FormValue("of")), (*form.Form)(nil)
	v, err := strconv.Atoi(r.FormValue("version"))
	if err != nil || string(at.Question) != r.Params("question") {
		return fiber.ErrNotFound
	}
	if f, err = r.Rounds.Form(r.Context, r.DB, r.Case.DesignID); err != nil {
		return err
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Intake.BringBack(ctx, tx, r.Case, at, v) })
	if errors.Is(err, application.ErrNotFound) {
		return fiber.ErrNotFound
	}
	if err != nil {
		return orConflict(r, err)
	}
	r.Tell("It is brought back. What stood there is among the earlier versions now.")
	return backTo(r, at.Question, f)
}
