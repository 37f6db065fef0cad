// Package guest holds what people reach by a personal link, without an
// account: referees, signatories, officers of a body, sponsoring bodies,
// teammates and readers who are invited.
package guest

import (
	"context"
	"errors"
	"mime/multipart"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/reference"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// typed is what stands in the page's boxes. The page's own inputs end in an
// underscore, which no key of a question does.
type typed struct {
	letter, dated, from, to string
	answers                 map[form.Place]form.Answer
}

func typedIn(r *site.Request, f *form.Form, x reference.Referee) *typed {
	t := &typed{letter: r.FormValue("letter_"), dated: r.FormValue("dated_"), from: r.FormValue("from_"),
		to: r.FormValue("to_")}
	if theirs := f.Theirs(x.Question); theirs != nil {
		t.answers = field.FromForm(r, theirs)
	}
	return t
}

// dating reads the day and the years; what cannot be read is said.
func (t *typed) dating() (d form.Dating, err error) {
	if s := strings.TrimSpace(t.dated); s != "" {
		var ok bool
		if d.Dated, ok = calendar.ParseDate(s); !ok {
			return d, refusal.Unfit("The day “" + s + "” cannot be read; write it like 9 April 2027.")
		}
	}
	for _, y := range []struct {
		raw string
		to  *int
	}{{t.from, &d.From}, {t.to, &d.To}} {
		if s := strings.TrimSpace(y.raw); s != "" {
			n, err := strconv.Atoi(s)
			if err != nil || n < 1900 || n > 2999 {
				return d, refusal.Unfit("The year “" + s + "” cannot be read; write it like 2024.")
			}
			*y.to = n
		}
	}
	return d, nil
}

func keptOf(x reference.Referee) *typed {
	year := func(n int) string {
		if n == 0 {
			return ""
		}
		return strconv.Itoa(n)
	}
	t := &typed{letter: x.Letter, from: year(x.YearsFrom), to: year(x.YearsTo), answers: x.Answers()}
	if d := x.Dating(); !d.Dated.IsZero() {
		t.dated = d.Dated.Words()
	}
	return t
}

func (t *typed) same(o *typed) bool {
	return t.letter == o.letter && t.dated == o.dated && t.from == o.from && t.to == o.to
}

// Letter is the page of one request.
func Letter(r *site.Request) error { return draw(r, fiber.StatusOK, "", nil) }

// letterPage is what guest/letter.html draws.
type letterPage struct {
	X         reference.Referee
	Q         *form.Question
	Of        say.RequestOf
	AsksDay   bool
	AsksYears bool
	Needs     string
	Dated     string
	From      string
	To        string
	Case      application.Case
	Form      *form.Form
	Zone      *time.Location
	Due       time.Time
	Open      bool
	Again     bool // what they confirmed was changed, and they are asked anew
	Problem   string
	Text      string
	Files     []material.File
	Theirs    []field.Field
	Word      reference.Word // what is confirmed, or was
	Print     string         // its fingerprint
	Reusable  []earlierLetter
	Unkept    bool
	Token     string
	MostWords int
	MostSize  int64
	All       []asked // asked of the same address
	Few       []asked // the first of them
	Contact   string
}

// earlierLetter is one that can be used again.
type earlierLetter struct {
	ID    int64
	Sent  time.Time
	What  string
	Fault string // what would be wrong with it here; "" for nothing
}

// loaded is a request with its case and form.
type loaded struct {
	x    reference.Referee
	c    application.Case
	f    *form.Form
	open bool
}

func load(r *site.Request) (l loaded, err error) {
	if l.x, l.c, err = r.Referees.Load(r.Context, r.DB, r.Link.Subject); err != nil {
		return l, err
	}
	if l.f, err = r.Rounds.Form(r.Context, r.DB, l.c.DesignID); err != nil {
		return l, err
	}
	w, err := r.Cases.Writing(r.Context, r.DB, l.c, r.At)
	writable := err == nil && w.Takes(l.x.Question)
	l.open = l.x.Takes(l.f, l.c, writable, r.At)
	return l, nil
}

func draw(r *site.Request, status int, problem string, in *typed) error {
	l, err := load(r)
	if err != nil {
		return err
	}
	x, c, f := l.x, l.c, l.f
	q := f.Question(x.Question)
	kept := keptOf(x)
	if in == nil {
		in = kept
	}
	d := letterPage{X: x, Q: q, Case: c, Form: f, Zone: f.Zone, Due: x.Due(f, c), Open: l.open, Problem: problem,
		Needs: say.LetterNeeds(q.Ask), Dated: in.dated, From: in.from, To: in.to, Text: in.letter, Unkept: !in.same(kept),
		Token: r.Params("token"), MostWords: reference.MostWords, MostSize: reference.MostSize, Contact: f.Design.Contact}
	d.AsksDay, d.AsksYears = q.Ask.Asks()
	d.Of = say.RequestOf{Form: f, Question: q, Name: x.Name, Lead: c.LeadName, Round: c.RoundName, Title: c.Title,
		Knows: x.Knows, Due: d.Due, Waived: x.Waived, Contact: x.Contact}
	if d.Files, err = r.Materials.OfReferee(r.Context, r.DB, x.ID); err != nil {
		return err
	}
	if t := f.Theirs(q.Key); t != nil {
		filled := reference.TheirsFilled(f, x, r.At)
		filled.Answers = in.answers
		path := t.Walk(filled)
		for i := range t.Design.Sections[0].Questions {
			d.Theirs = append(d.Theirs, field.New(t, filled, path, &t.Design.Sections[0].Questions[i], nil))
		}
	}
	if err := d.confirms(r, l); err != nil {
		return err
	}
	if l.open && !q.Confirms() && !x.Sent() {
		if err := d.reusable(r, l); err != nil {
			return err
		}
	}
	if d.All, err = everything(r, x.Email); err != nil {
		return err
	}
	d.Few = d.All[:min(len(d.All), mostBeside)]
	title := "A letter for “" + c.Title + "”"
	if q.Confirms() {
		title = "Something to confirm for “" + c.Title + "”"
	}
	return r.Draw(status, "guest/letter", view.Page{Title: title, Data: d})
}

// confirms fills in what a signatory confirms, or has confirmed.
func (d *letterPage) confirms(r *site.Request, l loaded) error {
	if !d.Q.Confirms() {
		return nil
	}
	if w, ok := l.x.WordOf(); ok && l.x.Sent() {
		d.Word, d.Print = w, l.x.Fingerprint
		return nil
	}
	filled, err := r.Cases.Filled(r.Context, r.DB, l.c, l.f, r.At)
	if err != nil {
		return err
	}
	d.Again = l.x.Confirmed != nil
	d.Word, d.Print = reference.ToConfirm(l.f, d.Q, l.c, filled)
	return nil
}

// reusable fills in the letters that can be used again.
func (d *letterPage) reusable(r *site.Request, l loaded) error {
	list, err := r.Referees.Reusable(r.Context, r.DB, l.x, l.c)
	if err != nil {
		return err
	}
	by := l.f.DueDay(d.Q, l.c.Window(l.f).Closes)
	for _, x := range list {
		dating := x.Dating()
		if dating.Dated.IsZero() {
			dating.Dated = calendar.DateOf(x.StateAt, l.f.Zone)
		}
		e := earlierLetter{ID: x.ID, Sent: x.StateAt}
		if _, c, err := r.Referees.Load(r.Context, r.DB, x.ID); err == nil {
			e.What = c.RoundName
		}
		if fault := d.Q.Ask.Fault(dating, calendar.DateOf(r.At, l.f.Zone), by); fault != "" {
			e.Fault = say.LetterFault(d.Q.Ask, fault, by)
		}
		d.Reusable = append(d.Reusable, e)
	}
	return nil
}

// mostBeside is how many requests stand beside one of them.
const mostBeside = 6

func back(r *site.Request) error { return r.See("/letter/" + r.Params("token")) }

// late keeps that a letter came after it could be taken, and passes the error on.
func late(r *site.Request, err error) error {
	if errors.Is(err, reference.ErrClosed) {
		if kept := r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.Referees.Late(ctx, tx,
				r.Link.Subject)
		}); kept != nil {
			return kept
		}
	}
	return err
}

// problem draws the page again with what was said, or passes a fault on.
func problem(r *site.Request, err error, in *typed) error {
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return draw(r, fiber.StatusUnprocessableEntity, unfit.Sentence(), in)
	}
	if p, says := refusal.Of(err); says && p.Kind != refusal.KindMissing {
		return draw(r, fiber.StatusConflict, site.Sentence(err), in)
	}
	return err
}

// Answer accepts or declines; a signatory confirms.
func Answer(r *site.Request) error {
	l, err := load(r)
	if err != nil {
		return err
	}
	in := typedIn(r, l.f, l.x)
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		switch {
		case r.FormValue("answer_") != "yes":
			return r.Referees.Decline(ctx, tx, l.x.ID, r.FormValue("why_"), r.FormValue("instead_"))
		case l.f.Question(l.x.Question).Confirms():
			return r.Referees.Confirm(ctx, tx, l.x.ID, r.FormValue("print_"), in.answers)
		}
		return r.Referees.Accept(ctx, tx, l.x.ID)
	})
	if err != nil {
		return problem(r, late(r, err), in)
	}
	return back(r)
}

// Keep a letter that is being written, with a file that was chosen.
func Keep(r *site.Request) error {
	if done, err := keep(r); done || err != nil {
		return err
	}
	r.Tell("It is put up. It is not sent until you press Send.")
	return back(r)
}

// PutFile puts a page of the letter up; what stands in the boxes is kept with it.
func PutFile(r *site.Request) error {
	if h, err := r.FormFile("file"); err != nil || h.Size == 0 && h.Filename == "" {
		l, err := load(r)
		if err != nil {
			return err
		}
		return draw(r, fiber.StatusUnprocessableEntity, "choose a file first", typedIn(r, l.f, l.x))
	}
	return Keep(r)
}

// TakePage takes a page out again; what stands in the boxes is kept.
func TakePage(r *site.Request) error {
	if done, err := keep(r); done || err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.Params("page"), 10, 64)
	err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Referees.TakePage(ctx, tx, r.Link.Subject, id) })
	if err != nil {
		return problem(r, err, nil)
	}
	return back(r)
}

// Reuse puts an earlier letter up here, to be looked at and sent.
func Reuse(r *site.Request) error {
	from, _ := strconv.ParseInt(r.FormValue("letter"), 10, 64)
	err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Referees.Reuse(ctx, tx, r.Link.Subject, from) })
	if err != nil {
		return problem(r, err, nil)
	}
	r.Tell("Your earlier letter is put up here. Look it over; it is not sent until you press Send.")
	return back(r)
}

// keep keeps all that stands on the page: a chosen file first, then the boxes.
// done reports that the page was drawn again, with what was typed and why.
func keep(r *site.Request) (done bool, err error) {
	l, err := load(r)
	if err != nil {
		return true, err
	}
	in := typedIn(r, l.f, l.x)
	version, _ := strconv.Atoi(r.FormValue("version_"))
	if h, err := r.FormFile("file"); err == nil && (h.Size > 0 || h.Filename != "") {
		says, err := putFile(r, h)
		if err != nil {
			return true, problem(r, late(r, err), in)
		}
		if says != "" {
			return true, draw(r, fiber.StatusUnprocessableEntity, says, in)
		}
		version++ // the file is a version of its own
	}
	d, err := in.dating()
	if err == nil {
		err = r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.Referees.Keep(ctx, tx, r.Link.Subject, reference.Draft{Version: version, Text: in.letter, Dating: d,
				Answers: in.answers})
		})
	}
	if err != nil {
		return true, problem(r, late(r, err), in)
	}
	return false, nil
}

// putFile stores a chosen file; says why it was not taken, "" when it was.
func putFile(r *site.Request, h *multipart.FileHeader) (says string, err error) {
	body, err := h.Open()
	if err != nil {
		return "", err
	}
	defer body.Close()
	ctx, cancel := r.UploadContext()
	defer cancel()
	m, err := r.Referees.PutPage(ctx, r.Actor(), r.At, r.Link.Subject, h.Filename, h.Size, body)
	if err != nil {
		return "", err
	}
	if m.State == slot.Refused || m.Facts.Kind != slot.PDF && m.Facts.Kind != slot.Picture {
		return "“" + m.Name +
			"” is neither a PDF nor a picture that can be opened here. Print or save it as PDF and put that up; or write in the box instead", nil
	}
	return "", nil
}

// OwnFile sends the referee a page of their own letter.
func OwnFile(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("page"), 10, 64)
	list, err := r.Materials.OfReferee(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	for _, m := range list {
		if m.ID == id {
			return r.SendMaterial(m)
		}
	}
	return fiber.ErrNotFound
}

// ShownFile sends a file that is part of what somebody confirms.
func ShownFile(r *site.Request) error {
	l, err := load(r)
	if err != nil {
		return err
	}
	id, err := strconv.ParseInt(r.Params("id"), 10, 64)
	q := l.f.Question(l.x.Question)
	if err != nil || q == nil || q.Ask == nil {
		return fiber.ErrNotFound
	}
	m, err := r.Materials.Find(r.Context, r.DB, id, l.c.EntryID)
	if errors.Is(err, material.ErrNotFound) || err == nil && !slices.Contains(q.Ask.Shows, m.Slot) {
		return fiber.ErrNotFound
	}
	if err != nil {
		return err
	}
	return r.SendMaterial(m)
}

// Send the letter; what stands on the page is kept first.
func Send(r *site.Request) error {
	if done, err := keep(r); done || err != nil {
		return err
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Referees.Send(ctx, tx, r.Link.Subject)
	}); err != nil {
		return problem(r, late(r, err), nil)
	}
	return back(r)
}
