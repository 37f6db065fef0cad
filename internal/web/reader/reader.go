// Package reader holds the desk of those who read and mark.
package reader

import (
	"context"
	"errors"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/mark"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/round"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// shelf is the list of cases beside the one being read.
type shelf struct {
	ToMark, Marked []entry
	Due            time.Time
	Zone           *time.Location
	Bars           []int // how many marked scores fall to each whole step
	RoundKey       string
	Earlier        int  // cases of other rounds, which are left out
	Pictures       bool // the round asks for some
	Days           []meetingDay
	Samples        []round.Round // whose sample case waits to be marked
}

type entry struct {
	desk.ToRead
	Score   mark.Score
	Current bool
	Query   string // names the stage where a later one is listed too
}

func load(r *site.Request, current int64) (shelf, error) {
	var s shelf
	list, err := r.Desk.ReaderDesk(r.Context, r.Account.ID)
	if err != nil {
		return s, err
	}
	entries := make([]int64, len(list))
	for i, it := range list {
		entries[i] = it.EntryID
		if it.EntryID == current {
			s.RoundKey = it.RoundKey
		}
	}
	marks, err := r.Reading.MarksOf(r.Context, r.DB, entries, r.Account.ID)
	if err != nil {
		return s, err
	}
	for _, it := range list {
		f, err := r.Rounds.Form(r.Context, r.DB, it.DesignID)
		if err != nil {
			return s, err
		}
		values, weights := reading.InOrder(f, marks[reading.Marker{Entry: it.EntryID, Account: r.Account.ID}])
		e := entry{ToRead: it, Current: it.EntryID == current}
		if f.Design.HideNames {
			e.Title = it.Ref // what somebody calls their work may say who they are
		}
		for _, other := range list {
			if other.Ref == it.Ref && other.EntryID > it.EntryID {
				e.Query = "?stage=" + string(it.Stage)
			}
		}
		e.Score, _ = mark.Weighted(values, weights)
		if s.RoundKey == "" {
			s.RoundKey = it.RoundKey
		}
		if it.RoundKey != s.RoundKey {
			s.Earlier++
			continue
		}
		if s.Zone == nil {
			s.Due, s.Zone, s.Pictures = f.At(form.ReadingEnd), f.Zone, casefile.TakesPictures(f)
		}
		if it.SentAt != nil || !it.State.Is(lifecycle.BeingRead) {
			s.Marked = append(s.Marked, e)
			s.Bars = mark.Fall(s.Bars, e.Score, f.Design.MostMark())
		} else {
			s.ToMark = append(s.ToMark, e)
		}
	}
	return s, nil
}

// meetingDay is a day on which the reader meets people.
type meetingDay struct {
	casefile.MeetingDay
	Zone *time.Location
}

// meets lists the days on which the reader meets people, those of the last fortnight
// among them.
func meets(r *site.Request) (out []meetingDay, err error) {
	days, err := r.Interviews.Mine(r.Context, r.DB, r.Account.ID, r.At.AddDate(0, 0, -14))
	if err != nil {
		return nil, err
	}
	for _, d := range days {
		rd, err := r.Rounds.ByID(r.Context, r.DB, d.RoundID)
		if err != nil {
			return nil, err
		}
		f, err := r.Rounds.Published(r.Context, r.DB, rd)
		if err != nil {
			return nil, err
		}
		out = append(out, meetingDay{casefile.Meetings(d, f, r.At), f.Zone})
	}
	return out, nil
}

// Desk lists what is given to the reader.
func Desk(r *site.Request) error {
	s, err := load(r, 0)
	if err != nil {
		return err
	}
	if s.Days, err = meets(r); err != nil {
		return err
	}
	if s.Samples, err = r.Reading.SamplesFor(r.Context, r.DB, r.Account.ID); err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "reader/desk", view.Page{Title: "My reading", Nav: "reading", Data: s})
}

// Case is one case to read, with the marks beside it.
func Case(r *site.Request) error { return draw(r, fiber.StatusOK, "", nil) }

// criterion is one criterion as it is marked.
type criterion struct {
	form.Criterion
	Mark   int // -1: not marked
	Points []point
}

// point is a pass point as it is found.
type point struct {
	Key, Label string
	Met, Not   bool
}

// casePage is what reader/case.html draws.
type casePage struct {
	casefile.Papers
	Case     application.Case
	Form     *form.Form
	Shelf    shelf
	Given    reading.Given
	Criteria []criterion
	Marking  reading.Marking
	Overall  int // the step of the overall judgement; -1: none
	Score    mark.Score
	Marked   int // criteria
	Left     int // what is still to be said before it can be sent
	Problem  string
	Open     bool
	Talk     *talked
	Margins  []margin
	Beside   *beside // a case that is marked, to compare with; nil for none
	Of       string  // its number
}

// beside is another case that the reader has marked, with what they gave.
type beside struct {
	casefile.Papers
	Ref, Title string
	Marks      []criterion
	Score      mark.Score
	Note       string
}

// besideOf is the marked case that the address names; nil for none.
func besideOf(r *site.Request, list shelf) (*beside, error) {
	ref := r.Query("beside")
	for _, e := range list.Marked {
		if e.Ref != ref || ref == "" || e.EntryID == r.Case.EntryID {
			continue
		}
		c, err := r.Cases.ByEntry(r.Context, r.DB, e.EntryID)
		if err != nil {
			return nil, err
		}
		f, s, filled, path, err := casefile.Sealed(r, c)
		if err != nil {
			return nil, err
		}
		given, err := r.Reading.Find(r.Context, r.DB, e.EntryID, r.Account.ID)
		if err != nil {
			return nil, err
		}
		m, err := r.Reading.MarkingOf(r.Context, r.DB, given)
		if err != nil {
			return nil, err
		}
		out := &beside{Ref: c.Ref, Title: e.Title, Score: e.Score, Note: m.Note}
		for _, cr := range f.Criteria(path, "") {
			x := criterion{Criterion: cr, Mark: -1}
			if v, ok := m.Marks[cr.Key]; ok {
				x.Mark = v
			}
			out.Marks = append(out.Marks, x)
		}
		out.Papers, err = casefile.PapersOf(r, c, f, s, filled, path, "/reading/"+c.Ref+"/materials", true)
		return out, err
	}
	return nil, nil
}

func draw(r *site.Request, status int, problem string, typed *reading.Marking) error {
	f, s, filled, path, err := casefile.Sealed(r, r.Case)
	if err != nil {
		return err
	}
	list, err := load(r, r.Case.EntryID)
	if err != nil {
		return err
	}
	given, err := r.Reading.Find(r.Context, r.DB, r.Case.EntryID, r.Account.ID)
	if err != nil {
		return err
	}
	m, err := r.Reading.MarkingOf(r.Context, r.DB, given)
	if err != nil {
		return err
	}
	if typed != nil {
		for k, v := range typed.Marks {
			m.Marks[k] = v
		}
		m.Points, m.Overall = typed.Points, typed.Overall
		m.Note, m.ToOffice, m.ToApplicant = typed.Note, typed.ToOffice, typed.ToApplicant
	}
	d := casePage{Case: r.Case, Form: f, Shelf: list, Given: given, Problem: problem, Marking: m, Overall: -1,
		Open: r.Case.State.Is(lifecycle.BeingRead) && given.SentAt == nil}
	if m.Overall != nil {
		d.Overall = *m.Overall
	}
	asked := f.Criteria(path, "")
	for _, c := range asked {
		x := criterion{Criterion: c, Mark: -1}
		if v, ok := m.Marks[c.Key]; ok {
			x.Mark = v
			d.Marked++
		}
		for _, p := range c.PassPoints {
			met, said := m.Points[form.PointKey(c.Key, p.Key)]
			x.Points = append(x.Points, point{form.PointKey(c.Key, p.Key), p.Label, said && met, said && !met})
		}
		d.Criteria = append(d.Criteria, x)
	}
	d.Score, d.Left = scored(f, asked, m), reading.Lacks(f, asked, m)
	if d.Talk, err = talkOf(r, f); err != nil {
		return err
	}
	if d.Margins, err = marginsOf(r, f); err != nil {
		return err
	}
	if d.Beside, err = besideOf(r, list); err != nil {
		return err
	}
	if d.Beside != nil {
		d.Of = d.Beside.Ref
	}
	if d.Papers, err = casefile.PapersOf(r, r.Case, f, s, filled, path, "/reading/"+r.Case.Ref+"/materials",
		true); err != nil {
		return err
	}
	if f.Design.HideNames {
		r.Case.Title = d.Doc.Title
		d.Case.Title = d.Doc.Title
	}
	return r.Draw(status, "reader/case", view.Page{Title: r.Case.Title, Nav: "reading", Data: d})
}

// scored is the weighted score over the criteria that apply, so far.
func scored(f *form.Form, asked []form.Criterion, m reading.Marking) mark.Score {
	applies := map[form.Key]int{}
	for _, c := range asked {
		if v, ok := m.Marks[c.Key]; ok {
			applies[c.Key] = v
		}
	}
	score, _ := mark.Weighted(reading.InOrder(f, applies))
	return score
}

// Marks keeps what is marked so far; asked for JSON, while the page stays.
func Marks(r *site.Request) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	version, _ := strconv.Atoi(r.FormValue("version"))
	m := typed(r, f)
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		version, err = r.Reading.Keep(ctx, tx, r.Case, version, m)
		return err
	})
	if err != nil {
		return refuse(r, err, m)
	}
	if !r.Wants("json") {
		r.Tell("Kept. Your marks are not sent until you press Send marks.")
		return r.See("/reading/" + r.Case.Ref)
	}
	given, err := r.Reading.Find(r.Context, r.DB, r.Case.EntryID, r.Account.ID)
	if err != nil {
		return err
	}
	now, err := r.Reading.MarkingOf(r.Context, r.DB, given)
	if err != nil {
		return err
	}
	_, _, _, path, err := casefile.Sealed(r, r.Case)
	if err != nil {
		return err
	}
	asked := f.Criteria(path, "")
	left := reading.Lacks(f, asked, now)
	return r.JSON(fiber.Map{"version": version, "score": scored(f, asked, now).String(), "all": left == 0, "left": left})
}

// typed is what stands on the page.
func typed(r *site.Request, f *form.Form) reading.Marking {
	m := reading.Marking{Marks: map[form.Key]int{}, Points: map[string]bool{}, Note: r.FormValue("note"),
		ToOffice: r.FormValue("to-office"), ToApplicant: r.FormValue("to-applicant")}
	for _, c := range f.Design.Judged("") {
		if n, err := strconv.Atoi(r.FormValue("mark:" + string(c.Key))); err == nil {
			m.Marks[c.Key] = n
		}
		for _, p := range c.PassPoints {
			key := form.PointKey(c.Key, p.Key)
			if v := r.FormValue("point:" + key); v != "" {
				m.Points[key] = v == "yes"
			}
		}
	}
	if n, err := strconv.Atoi(r.FormValue("overall")); err == nil {
		m.Overall = &n
	}
	return m
}

func refuse(r *site.Request, err error, m reading.Marking) error {
	for _, known := range []error{reading.ErrStale, reading.ErrSent, reading.ErrUnmarked} {
		if errors.Is(err, known) {
			if r.Wants("json") {
				return r.Status(fiber.StatusConflict).JSON(fiber.Map{"fault": site.Sentence(known)})
			}
			return draw(r, fiber.StatusConflict, site.Sentence(known), &m)
		}
	}
	return err
}

// Send the marks; what stands on the page is kept first.
func Send(r *site.Request) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	version, _ := strconv.Atoi(r.FormValue("version"))
	m := typed(r, f)
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		if _, err := r.Reading.Keep(ctx, tx, r.Case, version, m); err != nil && !errors.Is(err, reading.ErrSent) {
			return err
		}
		return r.Reading.Send(ctx, tx, r.Case)
	})
	if err != nil {
		return refuse(r, err, m)
	}
	r.Tell("Your marks for “" + r.Case.Title + "” are sent.")
	return next(r)
}

func next(r *site.Request) error {
	s, err := load(r, 0)
	if err != nil {
		return err
	}
	if len(s.ToMark) > 0 {
		return r.See("/reading/" + s.ToMark[0].Ref)
	}
	return r.See("/reading")
}

// StepAside gives a case back for good.
func StepAside(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Reading.StepAside(ctx, tx, r.Case, r.FormValue("reason"))
	})
	if no, ok := refusal.Of(err); ok {
		return draw(r, fiber.StatusUnprocessableEntity, no.Sentence(), nil)
	}
	if err != nil {
		return err
	}
	r.Tell("You have stepped aside from “" + r.Case.Title + "”. The office gives it to somebody else.")
	return next(r)
}
