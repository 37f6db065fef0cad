package applicant

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/reference"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// persons draws up those of a case who were named and not replaced.
func persons(r *site.Request, f *form.Form, filled *form.Filled, list []reference.Referee) ([]field.Person, error) {
	var out []field.Person
	c := r.Case
	for _, x := range list {
		q := f.Question(x.Question)
		if x.State == form.Replaced || q == nil {
			continue
		}
		p := field.PersonOf(f, c, x, f.Fingerprint(q, filled), r.At)
		if x.Bounced() {
			var err error
			if p.Meant, err = r.Referees.Meant(r.Context, r.DB, c, x.Email); err != nil {
				return nil, err
			}
		}
		out = append(out, p)
	}
	return out, nil
}

// peopleGroup is those who were named for one question.
type peopleGroup struct {
	Q       *form.Question
	Label   string
	Enough  string
	Persons []field.Person
	In      int
	Need    int
	Due     time.Time
	Follows bool // taken after the closing
	Href    string
	Name    *field.Field // to name somebody else after sending; nil where that cannot be
}

// peoplePage is what applicant/people.html draws.
type peoplePage struct {
	Case   application.Case
	Form   *form.Form
	Zone   *time.Location
	Groups []peopleGroup
	ToAsk  int
	Open   bool
	Write  bool
}

// People is the board of a case: everybody who answers for it by a link.
func People(r *site.Request) error { return drawPeople(r, fiber.StatusOK, "", "", nil) }

// drawPeople draws the board, with what was typed for a person and was wrong.
func drawPeople(r *site.Request, status int, at form.Key, says string, typed map[string]string) error {
	f, filled, path, err := r.Cases.Walk(r.Context, r.DB, r.Case, r.At)
	if err != nil {
		return err
	}
	list, err := r.Referees.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	all, err := persons(r, f, filled, list)
	if err != nil {
		return err
	}
	d := peoplePage{Case: r.Case, Form: f, Zone: f.Zone, Open: r.Case.State.Open(), Write: r.May(access.AskPeople)}
	closes := r.Case.Window(f).Closes
	for _, sec := range f.Design.Sections {
		for i := range sec.Questions {
			q := &sec.Questions[i]
			if !q.AsksPeople() {
				continue
			}
			st := path.Find(q.Key)
			g := peopleGroup{Q: q, Label: q.Label, Due: f.Due(q, closes), Follows: f.Follows(q),
				Href: "/applications/" + r.Case.Ref + "/sections/" + string(sec.Key) + "#q-" + string(q.Key)}
			for _, p := range all {
				if p.Question == q.Key {
					g.Persons = append(g.Persons, p)
					if p.Sent() && !p.Changed {
						g.In++
					}
					if p.State == form.ToAsk {
						d.ToAsk++
					}
				}
			}
			if st != nil {
				g.Need = st.Limits.Referees
				g.Enough = say.Enough(q.Ask, g.Need)
				if q.Ask != nil && q.Ask.Enough > 0 {
					g.Need = min(g.Need, q.Ask.Enough)
				}
			}
			if len(g.Persons) > 0 || st != nil && st.Asked == condition.Yes && st.Must != condition.No {
				slices.SortStableFunc(g.Persons, byUrgency)
				if fl := field.New(f, filled, path, q, nil); !d.Open && d.Write && g.Follows && r.At.Before(g.Due) {
					for _, p := range g.Persons {
						fl.Referees = append(fl.Referees, p)
					}
					if fl.Problems = nil; q.Key == at {
						fl.Typed, fl.Problems = typed, []field.Problem{{What: says}}
					}
					if fl.MayName() {
						g.Name = &fl
					}
				}
				d.Groups = append(d.Groups, g)
			}
		}
	}
	return r.Draw(status, "applicant/people", view.Page{Title: "People asked, " + r.Case.Title, Nav: "applications",
		Data: d})
}

// byUrgency puts what is open before what is in, the oldest first.
func byUrgency(a, b field.Person) int {
	if a.Sent() != b.Sent() {
		if b.Sent() {
			return -1
		}
		return 1
	}
	return a.StateAt.Compare(b.StateAt)
}

// NameReferee names somebody, who is asked by mail at once or later.
func NameReferee(r *site.Request) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	q := f.Question(form.Key(r.Params("question")))
	if q == nil || !q.AsksPeople() {
		return fiber.ErrNotFound
	}
	typed := map[string]string{}
	for _, k := range []string{"name", "email", "knows", "waived", "contact"} {
		typed[k] = r.FormValue(k)
	}
	p := reference.Person{Name: typed["name"], Email: typed["email"], Knows: typed["knows"],
		Contact: typed["contact"] == "yes", Later: r.FormValue("when") == "later"}
	if w := typed["waived"]; w != "" {
		gave := w == "yes"
		p.Waived = &gave
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		_, err := r.Referees.Name(ctx, tx, r.Case, q.Key, p)
		return err
	})
	var unfit refusal.Refusal
	switch no, says := refusal.Of(err); {
	case refusal.AsUnfit(err, &unfit) && r.Case.State.Open():
		return again(r, f, q.Key, unfit.Says, typed)
	case says && !r.Case.State.Open(): // it is named from the board
		return drawPeople(r, fiber.StatusUnprocessableEntity, q.Key, no.Sentence(), typed)
	case err != nil:
		return orConflict(r, err)
	}
	if p.Later {
		r.Tell(typed["name"] + " is named, and not asked yet.")
	} else {
		r.Tell("We have written to " + typed["name"] + ".")
	}
	return backToPeople(r, q.Key, f)
}

// again draws the section with what was typed for a person, and what is wrong.
func again(r *site.Request, f *form.Form, question form.Key, says string, typed map[string]string) error {
	d, err := load(r, string(f.SectionOf(question)))
	if err != nil {
		return err
	}
	for i := range d.Fields {
		if d.Fields[i].Q.Key == question {
			d.Fields[i].Typed = typed
		}
	}
	d.problem(question, says, "")
	return draw(r, fiber.StatusUnprocessableEntity, d)
}

// backToPeople goes to where the act was pressed: the board, or the section.
func backToPeople(r *site.Request, q form.Key, f *form.Form) error {
	if r.FormValue("from") == "board" || !r.Case.State.Open() {
		return r.See("/applications/" + r.Case.Ref + "/people")
	}
	return backTo(r, q, f)
}

// RemindReferee writes to a referee again.
func RemindReferee(r *site.Request) error {
	return withReferee(r, r.Referees.Remind, "A reminder is on its way.")
}

// AskReferee asks somebody who was named before.
func AskReferee(r *site.Request) error {
	return withReferee(r, r.Referees.Ask, "The mail that asks them is on its way.")
}

// AskAgain asks somebody to confirm anew what was changed.
func AskAgain(r *site.Request) error {
	return withReferee(r, r.Referees.AskAgain, "They are asked to confirm it as it is now.")
}

// CorrectReferee asks the same person anew at the right address.
func CorrectReferee(r *site.Request) error {
	email := r.FormValue("email")
	return withReferee(r, func(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
		return r.Referees.Correct(ctx, tx, c, id, email)
	}, "They are asked anew at "+strings.TrimSpace(email)+". The earlier link no longer works.")
}

// WithdrawReferee takes a request back; the link no longer works.
func WithdrawReferee(r *site.Request) error {
	return withReferee(r, r.Referees.Replace, "The request is withdrawn; name somebody else.")
}

// AskAll asks everybody who was named and not asked yet.
func AskAll(r *site.Request) error {
	var names []string
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		names, err = r.Referees.AskAll(ctx, tx, r.Case)
		return err
	})
	switch {
	case conflict(err):
		return orConflict(r, err)
	case err != nil:
		if _, says := refusal.Of(err); !says {
			return err
		}
		r.Tell(site.Sentence(err))
	case len(names) == 0:
		r.Tell("Everybody who is named was asked already.")
	default:
		r.Tell("We have written to " + phrase.List(names) + ".")
	}
	return r.See("/applications/" + r.Case.Ref + "/people")
}

func withReferee(
	r *site.Request,
	act func(context.Context, *db.Tx, application.Case, int64) error,
	done string,
) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	x, err := r.Referees.In(r.Context, r.DB, r.Case, id)
	if err != nil {
		return fiber.ErrNotFound
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error { return act(ctx, tx, r.Case, id) })
	switch {
	case conflict(err):
		return orConflict(r, err)
	case err != nil:
		if _, says := refusal.Of(err); !says {
			return err
		}
		done = site.Sentence(err)
	}
	r.Tell(done)
	return backToPeople(r, x.Question, f)
}

// requestPage is what applicant/request.html draws.
type requestPage struct {
	Case    application.Case
	X       reference.Referee
	Subject string
	Body    string
	Asked   bool
	Back    string
}

// RequestMail shows the mail that asks somebody, before it goes and afterwards.
func RequestMail(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	x, err := r.Referees.In(r.Context, r.DB, r.Case, id)
	if err != nil {
		return err
	}
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	d := requestPage{Case: r.Case, X: x, Asked: x.State != form.ToAsk, Back: "/applications/" + r.Case.Ref + "/people"}
	d.Subject, d.Body = r.Referees.Request(f, r.Case, x)
	d.Body = strings.ReplaceAll(d.Body, post.LinkMark, "(their own link stands here)")
	return r.Draw(fiber.StatusOK, "applicant/request", view.Page{Title: "The mail to " + x.Name, Nav: "applications",
		Data: d})
}

// readPage is what applicant/readletter.html draws.
type readPage struct {
	Case  application.Case
	X     reference.Referee
	Zone  *time.Location
	Files []material.File
	Said  []string
}

// readable is a letter that the applicant may read; everybody else's is not found.
func readable(r *site.Request) (x reference.Referee, f *form.Form, err error) {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	if x, err = r.Referees.In(r.Context, r.DB, r.Case, id); err != nil {
		return x, nil, err
	}
	if f, err = r.Rounds.Form(r.Context, r.DB, r.Case.DesignID); err != nil {
		return x, nil, err
	}
	if !field.PersonOf(f, r.Case, x, "", r.At).Reads {
		return x, f, fiber.ErrNotFound
	}
	return x, f, nil
}

// ReadLetter shows a letter to the applicant who kept the right to read it.
func ReadLetter(r *site.Request) error {
	x, f, err := readable(r)
	if err != nil {
		return err
	}
	d := readPage{Case: r.Case, X: x, Zone: f.Zone}
	if d.Files, err = r.Materials.OfReferee(r.Context, r.DB, x.ID); err != nil {
		return err
	}
	if t := f.Theirs(x.Question); t != nil {
		d.Said = say.Theirs(t, reference.TheirsFilled(f, x, r.At))
	}
	return r.Draw(fiber.StatusOK, "applicant/readletter", view.Page{Title: "The letter of " + x.Name, Nav: "applications",
		Data: d})
}

// ReadPage sends a page of such a letter.
func ReadPage(r *site.Request) error {
	x, _, err := readable(r)
	if err != nil {
		return err
	}
	list, err := r.Materials.OfReferee(r.Context, r.DB, x.ID)
	if err != nil {
		return err
	}
	page, _ := strconv.ParseInt(r.Params("page"), 10, 64)
	for _, m := range list {
		if m.ID == page {
			return r.SendMaterial(m)
		}
	}
	return fiber.ErrNotFound
}
