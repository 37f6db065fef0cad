package cases

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/colleague"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
)

// fault is what was wrong with one of the forms of a case.
type fault struct {
	At   string // "rule KEY", "query" or "time"; "" for none
	Says string
}

// changed is one question whose answer or files differ from those sealed before.
type changed struct {
	Label      string
	Was, Is    string
	Gone, Come []seal.File
	Lines      []form.LineChange // of a budget
}

// queried is a query with what became of it.
type queried struct {
	application.Query
	Who     string
	Labels  []string
	Changes []changed // of one answered
}

// askable is a section with the questions that can be handed back.
type askable struct {
	Label     string
	Questions []form.Option
	Ticked    map[form.Key]bool
	Open      bool // shown unfolded
}

// queries are those of a case, the latest first.
func queries(r *site.Request, f *form.Form) ([]queried, error) {
	list, err := r.Cases.Queries(r.Context, r.DB, r.Case.EntryID)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	var ids []int64
	for _, q := range list {
		ids = append(ids, q.ByID)
	}
	who, err := r.Desk.Names(r.Context, "account", ids)
	if err != nil {
		return nil, err
	}
	var out []queried
	after := r.Case.SealID // the seal that followed a query: the next query's, or the latest
	for _, q := range list {
		x := queried{Query: q, Who: who[strconv.FormatInt(q.ByID, 10)]}
		for _, k := range q.Keys() {
			x.Labels = append(x.Labels, casefile.Label(f, k))
		}
		if q.Ended == application.Answered && after != nil {
			if x.Changes, err = changesOf(r, f, q.SealID, *after); err != nil {
				return nil, err
			}
		}
		before := q.SealID
		after = &before
		out = append(out, x)
	}
	return out, nil
}

func changesOf(r *site.Request, f *form.Form, was, is int64) ([]changed, error) {
	before, err := r.Cases.Sealed(r.Context, r.DB, was)
	if err != nil {
		return nil, err
	}
	after, err := r.Cases.Sealed(r.Context, r.DB, is)
	if err != nil {
		return nil, err
	}
	wasFilled, isFilled := before.Decoded.Filled(r.Case.LeadName), after.Decoded.Filled(r.Case.LeadName)
	wasPath, isPath := f.Walk(wasFilled), f.Walk(isFilled)
	var out []changed
	for _, c := range seal.Changes(f, &before.Decoded, &after.Decoded) {
		q := f.Question(c.Question)
		x := changed{Label: q.Label, Gone: c.Gone, Come: c.Come, Was: c.LettersWere, Is: c.LettersAre}
		if q.Keeps() == form.InLines {
			x.Lines = f.BudgetChanges(q, wasFilled, isFilled)
		} else if q.Written() {
			x.Was, x.Is = say.Answer(f, q, wasFilled, wasPath.Find(q.Key)), say.Answer(f, q, isFilled, isPath.Find(q.Key))
		}
		out = append(out, x)
	}
	return out, nil
}

// askables are the questions on the path of what was sent; those that an open
// finding hangs on stand first, apart.
func askables(f *form.Form, path *form.Path, ticked []string, findings []worked) []askable {
	on := map[form.Key]bool{}
	for _, k := range ticked {
		on[form.Key(k)] = true
	}
	var out []askable
	asked := func(k form.Key) bool { st := path.Find(k); return st != nil && st.Asked == condition.Yes }
	if doubt := inDoubt(f, findings); len(doubt) > 0 {
		a := askable{Label: "What the checks hang on", Ticked: on, Open: true}
		for _, k := range doubt {
			if q := f.Question(k); q != nil && asked(k) {
				a.Questions = append(a.Questions, form.Option{Key: k, Label: q.Label})
			}
		}
		if len(a.Questions) > 0 {
			out = append(out, a)
		}
	}
	for _, s := range f.Design.Sections {
		a := askable{Label: s.Label, Ticked: on}
		for i := range s.Questions {
			q := &s.Questions[i]
			if asked(q.Key) {
				a.Questions = append(a.Questions, form.Option{Key: q.Key, Label: q.Label})
			}
		}
		if len(a.Questions) > 0 {
			out = append(out, a)
		}
	}
	return out
}

// inDoubt are the questions read by rules that did not come out as met.
func inDoubt(f *form.Form, findings []worked) []form.Key {
	var rules []form.Key
	for _, w := range findings {
		if w.Result() != form.Holds {
			rules = append(rules, w.Rule)
		}
	}
	return f.ReadBy(rules...)
}

// mayAsk reports a state in which a query can be asked.
func mayAsk(c application.Case) bool {
	_, err := lifecycle.Next(c.State, lifecycle.HandBack, true)
	return err == nil && c.SealID != nil
}

// stock is what a query can be made of, and which of it is ticked.
func stock(r *site.Request) (list []colleague.Sentence, ticked map[int64]bool, err error) {
	ticked = map[int64]bool{}
	for _, raw := range r.Values("stock") {
		if id, err := strconv.ParseInt(raw, 10, 64); err == nil {
			ticked[id] = true
		}
	}
	list, err = r.Colleagues.Sentences(r.Context, r.DB, colleague.OfQuery)
	return list, ticked, err
}

// Ask hands an application back with a query: the sentences ticked, in the order
// of the stock, and what was typed after them.
func Ask(r *site.Request) error {
	days, err := strconv.Atoi(r.FormValue("days"))
	if err != nil {
		days = 0
	}
	var keys []form.Key
	for _, k := range r.Values("question") {
		keys = append(keys, form.Key(k))
	}
	list, ticked, err := stock(r)
	if err != nil {
		return err
	}
	var texts []string
	for _, s := range list {
		if ticked[s.ID] {
			texts = append(texts, s.Text)
		}
	}
	typed := strings.TrimSpace(r.FormValue("text"))
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		for _, text := range texts {
			if err := r.Colleagues.UseSentence(ctx, tx, colleague.OfQuery, text, false); err != nil {
				return err
			}
		}
		if err := r.Colleagues.UseSentence(ctx, tx, colleague.OfQuery, typed, r.FormValue("keep") == "yes"); err != nil {
			return err
		}
		whole := strings.TrimSpace(strings.Join(append(texts, typed), "\n\n"))
		_, err := r.Cases.Ask(ctx, tx, r.Case, whole, keys, days)
		return err
	})
	if done, err := refused(r, err, "query"); done {
		return err
	}
	r.Tell("Asked. " + r.Case.LeadName + " has a mail, and can answer what you ticked.")
	return r.See("/office/applications/" + r.Case.Ref + r.Case.Query())
}

// TakeQueryBack ends an open query.
func TakeQueryBack(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Intake.TakeQueryBack(ctx, tx, r.Case) })
	if done, err := refused(r, err, "query"); done {
		return err
	}
	r.Tell("Taken back. The application stands as it was sent.")
	return r.See("/office/applications/" + r.Case.Ref + r.Case.Query())
}

// SeeQuery puts an answer to a query aside.
func SeeQuery(r *site.Request) error {
	id, err := strconv.ParseInt(r.FormValue("query"), 10, 64)
	if err != nil {
		return fiber.ErrNotFound
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Cases.SeeQuery(ctx, tx, r.Case.EntryID,
			id)
	}); err != nil {
		return err
	}
	r.Tell("Put aside. It stays here with the case.")
	return r.See("/office/applications/" + r.Case.Ref + r.Case.Query())
}

// refused draws the case again for a sentence of a use case.
func refused(r *site.Request, err error, at string) (bool, error) {
	var unfit refusal.Refusal
	switch {
	case err == nil:
		return false, nil
	case refusal.AsUnfit(err, &unfit):
		return true, drawCase(r, fiber.StatusUnprocessableEntity, fault{at, unfit.Sentence()})
	case errors.Is(err, application.ErrNotDraft), errors.Is(err, application.ErrNotFound):
		return true, r.Refuse(fiber.StatusConflict, "It has moved on meanwhile; open it again and look.")
	}
	return true, err
}

// GiveTime gives one applicant more time, or says that it cannot be given.
func GiveTime(r *site.Request) error {
	var until time.Time
	if r.FormValue("give") != "no" {
		f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
		if err != nil {
			return err
		}
		var wall calendar.Wall
		if wall.UnmarshalText([]byte(r.FormValue("until"))) != nil || wall.IsZero() {
			return drawCase(r, fiber.StatusUnprocessableEntity,
				fault{"time", "“" + r.FormValue("until") + "” is not a date and time."})
		}
		until, _ = wall.In(f.Zone)
	}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Cases.GiveTime(ctx, tx, r.Case, until, r.FormValue("why"))
	})
	if done, err := refused(r, err, "time"); done {
		return err
	}
	r.Tell(r.Case.LeadName + " is told by mail.")
	return r.See("/office/applications/" + r.Case.Ref + r.Case.Query())
}

// timeDesk is what the office sees before it gives more time.
type timeDesk struct {
	May    bool
	Closes time.Time
	Until  string // proposed, of datetime-local
	Why    string
	Waits  *application.MoreTime // the wish that waits
}

func timeFor(r *site.Request, f *form.Form, d *casePage) error {
	if !r.May(access.GiveTime) {
		return nil
	}
	t := timeDesk{May: true, Closes: r.Case.Window(f).Closes, Until: r.FormValue("until"), Why: r.FormValue("why")}
	asked, err := r.Cases.MoreTimes(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	if len(asked) > 0 && asked[0].DecidedAt == nil {
		t.Waits = &asked[0]
	}
	if t.Until == "" {
		t.Until = calendar.MoreTime(t.Closes, r.At, f.Zone, f.Off).String()
	}
	d.Time = &t
	if d.AskedTimes, err = r.Desk.AskedTimes(r.Context, r.Case.RoundID, form.Key(r.Case.Stage)); err != nil {
		return err
	}
	d.LateTries, err = r.Desk.LateTries(r.Context, r.Case.RoundID)
	return err
}
