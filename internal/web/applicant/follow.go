package applicant

import (
	"context"
	"slices"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// promise is one answer that was to follow, as its applicant sees it.
type promise struct {
	application.Promised
	Q     *form.Question
	Last  string // the last day on which it is taken
	Left  time.Time
	Open  bool
	Over  bool
	Text  string // what came
	Field field.Field
	Slot  *followSlot // of a paper; nil for an answer
}

// followSlot is what is asked beside a paper that was to follow.
type followSlot struct {
	Wants   string
	Details []followBeside
	Ticks   []followBeside
	Problem string
	Most    int64
}

type followBeside struct{ Name, Label, Value string }

// slotFor draws what a slot asks.
func slotFor(r *site.Request, l *slot.Limits) *followSlot {
	if l == nil {
		l = &slot.Limits{}
	}
	out := &followSlot{Wants: say.Slot(*l), Most: slot.MostPlain}
	for i, d := range l.Details {
		k := string(form.DetailColumn(i))
		out.Details = append(out.Details, followBeside{k, d, r.FormValue(k)})
	}
	for i, t := range l.Ticks {
		k := string(form.TickColumn(i))
		out.Ticks = append(out.Ticks, followBeside{k, t, r.FormValue(k)})
	}
	return out
}

// followPage is what applicant/follow.html draws.
type followPage struct {
	Case   application.Case
	Zone   *time.Location
	List   []promise
	Office string // whom to write to
}

// promises draws up what an application was to be followed by.
func promises(r *site.Request) ([]promise, *form.Form, error) {
	list, err := r.Cases.Promised(r.Context, r.DB, r.Case.EntryID)
	if err != nil || len(list) == 0 || r.Case.SealID == nil {
		return nil, nil, err
	}
	f, _, filled, path, err := casefile.Sealed(r, r.Case)
	if err != nil {
		return nil, nil, err
	}
	var out []promise
	for _, p := range list {
		q := f.Question(p.Question)
		if q == nil {
			continue
		}
		x := promise{Promised: p, Q: q, Last: calendar.DateOf(p.DueAt.Add(-time.Second), f.Zone).Words(), Left: p.DueAt,
			Open: p.Open(r.At), Over: p.CameAt == nil && !r.At.Before(p.DueAt)}
		st := path.Find(q.Key)
		if p.CameAt != nil {
			x.Text = say.Answer(f, q, filled, st)
		} else {
			blank := *q // what was promised cannot be promised again
			blank.NonAnswers, blank.Help = nil, ""
			empty := &form.Filled{Answers: map[form.Place]form.Answer{}, Lead: filled.Lead, Today: filled.Today}
			x.Field = field.New(f, empty, path, &blank, nil)
			x.Field.Problems = nil
			if q.TakesFiles() {
				x.Slot = slotFor(r, st.Limits.Slot)
			}
		}
		out = append(out, x)
	}
	return out, f, nil
}

// ToFollow shows what was to follow after sending, and takes it.
func ToFollow(r *site.Request) error { return drawFollow(r, fiber.StatusOK, "", "", nil) }

func drawFollow(r *site.Request, status int, at form.Key, says string, typed map[form.Place]form.Answer) error {
	list, f, err := promises(r)
	if err != nil {
		return err
	}
	if f == nil {
		return fiber.ErrNotFound
	}
	for i := range list {
		if says != "" && list[i].Question == at && list[i].Slot != nil {
			list[i].Slot.Problem = says
			continue
		}
		if says != "" && list[i].Question == at {
			filled := &form.Filled{Answers: typed, Lead: r.Case.LeadName}
			blank := *list[i].Q
			blank.NonAnswers, blank.Help = nil, ""
			list[i].Field = field.New(f, filled, f.Walk(filled), &blank, nil)
			list[i].Field.Problems = []field.Problem{{What: says}}
		}
	}
	return r.Draw(status, "applicant/follow", view.Page{Title: "To follow, " + r.Case.Title, Nav: "applications",
		Data: followPage{r.Case, f.Zone, list, f.Design.Contact}})
}

// followFile takes a paper that was promised.
func followFile(r *site.Request, q *form.Question) error {
	h, body, err := r.Upload("file")
	if err != nil {
		return drawFollow(r, fiber.StatusUnprocessableEntity, q.Key, "Choose the file first.", nil)
	}
	defer body.Close()
	beside := map[form.Key]string{}
	if mine, _, err := promises(r); err != nil {
		return err
	} else {
		for _, p := range mine {
			if p.Question == q.Key && p.Slot != nil {
				for _, x := range slices.Concat(p.Slot.Details, p.Slot.Ticks) {
					beside[form.Key(x.Name)] = x.Value
				}
			}
		}
	}
	ctx, cancel := r.UploadContext()
	defer cancel()
	err = r.Intake.FollowFile(ctx, r.Actor(), r.At, r.Case, q, beside, h.Filename, h.Size, body)
	if no, ok := refusal.Of(err); ok {
		return drawFollow(r, fiber.StatusUnprocessableEntity, q.Key, no.Sentence(), nil)
	}
	if err != nil {
		return err
	}
	r.Tell("It has come, and stands beside what you sent.")
	return r.See("/applications/" + r.Case.Ref + "/to-follow")
}

// Follow takes an answer that was promised.
func Follow(r *site.Request) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	question := form.Key(r.Params("question"))
	if q := f.Question(question); q != nil && q.TakesFiles() {
		return followFile(r, q)
	}
	answers := field.FromForm(r, f)
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Intake.Follow(ctx, tx, r.Case, question, answers)
	})
	if no, ok := refusal.Of(err); ok {
		return drawFollow(r, fiber.StatusUnprocessableEntity, question, no.Sentence(), answers)
	}
	if err != nil {
		return err
	}
	r.Tell("It has come, and stands beside what you sent.")
	return r.See("/applications/" + r.Case.Ref + "/to-follow")
}
