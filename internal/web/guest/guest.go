// Package guest holds what people reach by a personal link, without an
// account: referees, and readers who are invited.
package guest

import (
	"context"
	"errors"
	"mime/multipart"
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
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/reference"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// typed is what stands in the page's boxes; nil for what is kept.
type typed struct{ letter, dated, from, to string }

func typedIn(r *site.Request) *typed {
	return &typed{r.FormValue("letter"), r.FormValue("dated"), r.FormValue("from"), r.FormValue("to")}
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
	t := &typed{letter: x.Letter, from: year(x.YearsFrom), to: year(x.YearsTo)}
	if d := x.Dating(); !d.Dated.IsZero() {
		t.dated = d.Dated.Words()
	}
	return t
}

// Letter is the page of one request for a letter.
func Letter(r *site.Request) error { return draw(r, fiber.StatusOK, "", nil) }

// letterPage is what guest/letter.html draws.
type letterPage struct {
	X         reference.Referee
	Q         *form.Question
	AsksDay   bool
	AsksYears bool
	Needs     string
	Dated     string
	From      string
	To        string
	Case      application.Case
	Form      *form.Form
	Zone      *time.Location
	Closes    time.Time
	Open      bool
	Problem   string
	Text      string
	File      *material.File
	Unkept    bool
	Token     string
	MostWords int
	MostSize  int64
}

func draw(r *site.Request, status int, problem string, in *typed) error {
	x, c, err := r.Referees.Load(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	f, err := r.Rounds.Form(r.Context, r.DB, c.DesignID)
	if err != nil {
		return err
	}
	window := c.Window(f)
	open := c.State.Open() && window.Phase(r.At) == calendar.Open
	kept := keptOf(x)
	if in == nil {
		in = kept
	}
	q := f.Question(x.Question)
	day, years := q.Ask.Asks()
	var file *material.File
	if x.LetterFile != nil {
		m, err := r.Materials.Find(r.Context, r.DB, *x.LetterFile, c.EntryID)
		if err != nil {
			return err
		}
		file = &m
	}
	return r.Draw(status, "guest/letter", view.Page{Title: "A letter for “" + c.Title + "”",
		Data: letterPage{X: x, Q: q, AsksDay: day, AsksYears: years, Needs: say.LetterNeeds(q.Ask), Dated: in.dated,
			From: in.from, To: in.to, Case: c, Form: f, Zone: f.Zone, Closes: window.Closes, Open: open, Problem: problem,
			Text: in.letter, File: file,
			Unkept: *in != *kept, Token: r.Params("token"), MostWords: reference.MostWords, MostSize: reference.MostSize}})
}

// confirms is what a signatory confirms; "" for a referee.
func confirms(r *site.Request) (string, error) {
	x, c, err := r.Referees.Load(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return "", err
	}
	f, err := r.Rounds.Form(r.Context, r.DB, c.DesignID)
	if err != nil {
		return "", err
	}
	q := f.Question(x.Question)
	if q == nil || !q.Confirms() || q.Ask == nil {
		return "", nil
	}
	return q.Ask.Wants, nil
}

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
	for _, known := range []error{reference.ErrClosed, reference.ErrEmpty, reference.ErrTooLong, reference.ErrStale} {
		if errors.Is(err, known) {
			return draw(r, fiber.StatusConflict, site.Sentence(known), in)
		}
	}
	return err
}

// Answer accepts or declines.
func Answer(r *site.Request) error {
	yes := r.FormValue("answer") == "yes"
	if ask, err := confirms(r); err != nil || ask != "" && yes {
		if err == nil {
			err = r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Referees.Confirm(ctx, tx, r.Link.Subject, ask) })
		}
		if err != nil {
			return problem(r, err, nil)
		}
		return back(r)
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Referees.Answer(ctx, tx, r.Link.Subject,
			yes)
	}); err != nil {
		return problem(r, err, nil)
	}
	return back(r)
}

// Keep a letter that is being written, with a file that was chosen.
func Keep(r *site.Request) error {
	if done, err := keep(r); done || err != nil {
		return err
	}
	r.Tell("Your letter is put up. It is not sent until you press Send.")
	return back(r)
}

// PutFile puts a letter up as a file; what stands in the boxes is kept with it.
func PutFile(r *site.Request) error {
	if h, err := r.FormFile("file"); err != nil || h.Size == 0 && h.Filename == "" {
		return draw(r, fiber.StatusUnprocessableEntity, "choose a file first", typedIn(r))
	}
	return Keep(r)
}

// keep keeps all that stands on the page: a chosen file first, then the boxes.
// done reports that the page was drawn again, with what was typed and why.
func keep(r *site.Request) (done bool, err error) {
	in := typedIn(r)
	version, _ := strconv.Atoi(r.FormValue("version"))
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
			return r.Referees.Keep(ctx, tx, r.Link.Subject, version, in.letter, d)
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
	m, err := r.Referees.PutFile(ctx, r.Actor(), r.At, r.Link.Subject, h.Filename, h.Size, body)
	if err != nil {
		return "", err
	}
	if m.State == slot.Refused || m.Facts.Kind != slot.PDF && m.Facts.Kind != slot.Picture {
		return "“" + m.Name +
			"” is neither a PDF nor a picture that can be opened here. Print or save it as PDF and put that up; or write in the box instead", nil
	}
	return "", nil
}

// OwnFile sends the referee their own file.
func OwnFile(r *site.Request) error {
	x, c, err := r.Referees.Load(r.Context, r.DB, r.Link.Subject)
	if err != nil || x.LetterFile == nil {
		return fiber.ErrNotFound
	}
	m, err := r.Materials.Find(r.Context, r.DB, *x.LetterFile, c.EntryID)
	if err != nil {
		return fiber.ErrNotFound
	}
	return r.SendMaterial(m)
}

// Send the letter; what stands on the page is kept first.
func Send(r *site.Request) error {
	if done, err := keep(r); done || err != nil {
		return err
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Referees.Send(ctx, tx,
			r.Link.Subject)
	}); err != nil {
		return problem(r, late(r, err), typedIn(r))
	}
	return back(r)
}

// Invitation asks an invited reader to begin.
func Invitation(r *site.Request) error { return drawInvitation(r, fiber.StatusOK, refusal.Refusal{}) }

// readerPage is what guest/reader.html draws.
type readerPage struct {
	A       people.Account
	New     bool
	Problem refusal.Refusal
}

func drawInvitation(r *site.Request, status int, p refusal.Refusal) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	return r.Draw(status, "guest/reader", view.Page{Title: "Read with us",
		Data: readerPage{A: a, New: a.PasswordHash == "", Problem: p}})
}

// Accept the invitation: a new reader chooses a password, one with an account
// signs in with it.
func Accept(r *site.Request) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	hash := ""
	if a.PasswordHash == "" {
		var p refusal.Refusal
		if errors.As(people.CheckPassword(r.FormValue("password"), a.Email, a.Name), &p) {
			return drawInvitation(r, fiber.StatusUnprocessableEntity, p)
		}
		if hash, err = r.People.Hash(r.FormValue("password")); err != nil {
			return err
		}
	}
	err = r.DB.Do(r.Context, db.Account(a.ID), r.At, func(ctx context.Context, tx *db.Tx) error {
		if hash != "" {
			if err := r.People.SetPassword(ctx, tx, a.ID, hash); err != nil {
				return err
			}
		}
		return r.Reading.Accept(ctx, tx, a.ID)
	})
	if err != nil {
		return err
	}
	if hash == "" {
		return r.See("/sign-in?next=/reading")
	}
	if err := r.Begin(a.ID); err != nil {
		return err
	}
	return r.See("/reading")
}
