package applicant

import (
	"context"
	"errors"
	"log/slog"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/decision"
	"ulvant/internal/intake"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/sealcopy"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// SendForm shows the application as it will be read, and what is in the way.
func SendForm(r *site.Request) error {
	if !r.Case.State.Open() {
		return r.See("/applications/" + r.Case.Ref + "/sent" + r.Case.Query())
	}
	return drawSend(r, fiber.StatusOK, "")
}

// sendPage is what applicant/send.html draws.
type sendPage struct {
	D           *Desk
	Reply       string
	Sections    []casefile.ReadSection
	Files       []readFile
	Hidden      bool
	Problem     string
	DemoAccount bool
	Password    bool
	Charge      *form.Charge // what is to be paid; nil for nothing
	ToPay       string
	Rises       string // what it becomes, and when
}

func drawSend(r *site.Request, status int, problem string) error {
	d, err := load(r, "")
	if err != nil {
		return err
	}
	filled, err := r.Cases.Filled(r.Context, r.DB, r.Case, d.Form, r.At)
	if err != nil {
		return err
	}
	files, err := r.Materials.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	page := sendPage{}
	if c := d.Path.Charge(); c != nil && c.Total > 0 && r.Case.State.Is(lifecycle.Drafting) {
		page.Charge, page.ToPay, page.Rises = c, money.Format(
			c.Total,
			d.Form.Design.Currency,
		), say.ChargeNext(
			d.Form,
			c,
		)
	}
	return r.Draw(status, "applicant/send", view.Page{Title: "Send " + r.Case.Title, Nav: "applications",
		Data: sendPage{D: d, Charge: page.Charge, ToPay: page.ToPay, Rises: page.Rises,
			Reply: r.FormValue("reply"), Sections: casefile.Reading(d.Form, filled, d.Path, nil),
			Files: asRead(d.Form, d.Path,
				files), Hidden: d.Form.Design.HideNames, Problem: problem, DemoAccount: r.Account.DemoNote != "",
			Password: d.Form.Design.Password}})
}

// readFile is a file with the name under which readers get it, where that is
// another; "" when it is not, or they do not see it.
type readFile struct {
	material.File
	Readers bool
	Neutral string
	Warn    string
}

// asRead are the files on the path as they will be read.
func asRead(f *form.Form, path *form.Path, files []material.File) (out []readFile) {
	in, at := map[form.Key]int{}, map[form.Key]int{}
	on := slices.DeleteFunc(slices.Clone(files), func(m material.File) bool {
		st := path.Find(m.Slot)
		return st == nil || st.Asked != condition.Yes
	})
	for _, m := range on {
		in[m.Slot]++
	}
	for _, m := range on {
		q := f.Question(m.Slot)
		at[m.Slot]++
		x := readFile{File: m, Readers: q.ForReaders(), Warn: say.NamesAuthor(f, q, m.Facts.Facts)}
		if f.Design.HideNames && x.Readers {
			x.Neutral = seal.Neutral(q.Label, at[m.Slot], in[m.Slot], m.Name)
		}
		out = append(out, x)
	}
	return out
}

// Send sends the application. The password is checked before the transaction;
// the instant that counts is the request's receipt.
func Send(r *site.Request) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	if f.Design.Password && r.Case.State.Is(lifecycle.Drafting) &&
		!r.People.Verify(r.FormValue("password"), r.Account.PasswordHash) {
		return drawSend(
			r,
			fiber.StatusUnprocessableEntity,
			"This is not your password. Nothing was sent; type it again.",
		)
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		if r.Case.State.Is(lifecycle.Queried) {
			_, err = r.Intake.SendBack(ctx, tx, r.Case, r.FormValue("reply"))
			return err
		}
		_, err = r.Intake.Send(ctx, tx, r.Case)
		return err
	})
	var stopped intake.Stopped
	var unfit refusal.Refusal
	switch {
	case errors.As(err, &stopped):
		return drawSend(r, fiber.StatusUnprocessableEntity, "Nothing was sent, because of what is listed here.")
	case errors.Is(err, intake.ErrClosed):
		if lerr := r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.Intake.Late(ctx, tx, r.Case,
				f)
		}); lerr != nil {
			return lerr
		}
		return r.Refuse(fiber.StatusConflict, "It closed at "+view.When(r.Case.Window(f).Closes,
			f.Zone)+". Your request reached us at "+
			r.At.In(
				f.Zone,
			).Format(
				"15:04:05.000",
			)+", after that; nothing was sent. What you wrote is kept. If something on "+
			"our side held you up, write to "+f.Design.Contact+".")
	case refusal.AsUnfit(err, &unfit):
		return drawSend(r, fiber.StatusUnprocessableEntity, unfit.Sentence())
	case err != nil:
		return orConflict(r, err)
	}
	if err := r.Together.Tell(r.Context, r.At, r.Case.ID, r.Account.ID); err != nil { // it is sent all the same
		slog.Warn("open pages were not told that it was sent", "error", err)
	}
	now, err := r.Cases.ByEntry(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	if now.State.Owes() {
		return r.See("/applications/" + r.Case.Ref + "/fee")
	}
	return r.See("/applications/" + r.Case.Ref + "/sent")
}

// sentPage is what applicant/sent.html draws.
type sentPage struct {
	Case        application.Case
	Survey      *form.Section
	Asks        int
	Form        *form.Form
	Zone        *time.Location
	Seal        application.Seal
	Sections    []casefile.ReadSection
	Strand      view.Picture
	AnswerOn    time.Time
	Late        bool     // the day by which an answer was promised is over, and there is none
	Bodies      []string // where it is among the bodies that review it
	Proposed    []string // what was proposed for lists, and what became of it
	Adviser     string   // who of the office looks after it; "" for nobody by name
	Stages      []casefile.StageLink
	MayWithdraw bool
	Promises    []promise // what was to follow
	ByLink      bool      // people answer for it by links of their own
	Next        string
	Move        lifecycle.Move
	Fee         *casefile.FeeView // nil where nothing was charged
	Offers      []onOffer         // what is awarded, to be accepted or declined
	Wrong       refusal.Refusal   // why an offer could not be answered
	Letter      *decision.Letter  // by which they were told of the decision; nil: none has left
	Back        string            // what whoever withdraws gets back of it
	OnPaper     int               // its number on the ballot paper; 0: it stands on none
	VoteEnds    time.Time
	Voting      bool
}

// Sent confirms a sent application and says what happens next.
func Sent(r *site.Request) error { return drawSent(r, fiber.StatusOK, refusal.Refusal{}) }

func drawSent(r *site.Request, status int, wrong refusal.Refusal) error {
	if r.Case.SealID == nil {
		return r.See("/applications/" + r.Case.Ref + r.Case.Query())
	}
	f, s, filled, path, err := casefile.Sealed(r, r.Case)
	if err != nil {
		return err
	}
	all, err := stages(r, f)
	if err != nil {
		return err
	}
	survey, asks, err := surveyLeft(r, f)
	if err != nil {
		return err
	}
	follows, _, err := promises(r)
	if err != nil {
		return err
	}
	given, err := r.Decisions.GivenTo(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	told, err := r.Decisions.ToldBy(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	sum := ""
	if given != nil && r.Case.State.Is(lifecycle.Gives) {
		gifts, units, err := r.Decisions.GiftsOf(r.Context, r.DB, f, given.Act, r.Case.EntryID)
		if err != nil {
			return err
		}
		sum = say.AndGifts(sumSaid(f, *given), gifts, units, f.Design.Currency)
	}
	charged, err := r.Fees.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	var fee *casefile.FeeView
	back := ""
	if charged != nil {
		v := casefile.Fee(f, charged, r.At)
		fee = &v
		if len(v.Moves) > 0 {
			back = say.GivenBack(f)
		}
	}
	beyond, err := ofOffice(r, f)
	if err != nil {
		return err
	}
	vote, err := r.Ballots.Of(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	onPaper, err := r.Ballots.Stands(r.Context, r.DB, vote, f, r.Case.EntryID, r.At)
	if err != nil {
		return err
	}
	offers, err := offersOf(r, f)
	if err != nil {
		return err
	}
	return r.Draw(status, "applicant/sent", view.Page{Title: "Sent: " + r.Case.Title, Nav: "applications",
		Data: sentPage{Case: r.Case, Survey: survey, Asks: asks, Form: f, Zone: f.Zone, Seal: s,
			Sections: casefile.Reading(f, filled, path, nil), Strand: view.Strand(f, r.At, nil, true),
			AnswerOn: f.At(form.AnswerOn), Late: r.At.After(f.At(form.AnswerOn)), Bodies: beyond.bodies,
			Proposed: beyond.proposed, Adviser: beyond.adviser, Stages: all, MayWithdraw: r.May(access.Withdraw),
			Promises: follows,
			ByLink:   f.AsksOthers(), Next: say.Next(r.Case.State, sum,
				readersAfter(f, form.Key(r.Case.Stage))), Move: lifecycle.MoveIn(r.Case.State), Fee: fee, Back: back,
			Offers: offers, Wrong: wrong, Letter: told, OnPaper: onPaper, VoteEnds: f.VoteWindow().Closes,
			Voting: r.At.Before(f.VoteWindow().Closes)}})
}

// told is what the office’s work on a case tells whoever applied.
type told struct {
	bodies, proposed []string
	adviser          string
}

func ofOffice(r *site.Request, f *form.Form) (t told, err error) {
	turns, err := r.Program.Checks.TurnsOf(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return t, err
	}
	for _, x := range turns {
		var due time.Time
		if x.DueAt != nil {
			due = *x.DueAt
		}
		if r.Case.State.Is(lifecycle.ToCheck | lifecycle.ToSettle) {
			t.bodies = append(t.bodies, say.TurnToApplicant(f, x.Body, x.State, due))
		}
	}
	proposals, err := r.Program.Checks.ProposalsOf(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return t, err
	}
	for _, p := range proposals {
		t.proposed = append(
			t.proposed,
			say.ListProposal(p.Text, f.ListLabel(form.Key(p.List)), string(p.Ruling), p.Reason),
		)
	}
	t.adviser, err = adviserOf(r)
	return t, err
}

// readersAfter is what those are called who mark a stage; "" when nobody does.
func readersAfter(f *form.Form, stage form.Key) string {
	if !f.ReadAfter(stage) {
		return ""
	}
	return f.Design.Readers()
}

// Copy sends the PDF copy of a sent application.
func Copy(r *site.Request) error {
	if r.Case.SealID == nil {
		return fiber.ErrNotFound
	}
	name, pdf, err := r.Program.Copy(r.Context, *r.Case.SealID)
	if err != nil {
		return err
	}
	return r.Download(name, "application/pdf", pdf)
}

// LetterPDF is the letter that told of the decision, as PDF on the funder's paper; it
// says what the mail and the page say.
func LetterPDF(r *site.Request) error {
	told, err := r.Decisions.ToldBy(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	if told == nil {
		return fiber.ErrNotFound
	}
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	paper := sealcopy.Paper{
		Title: r.Funder.Name(),
		Head:  told.SentAt.In(f.Zone).Format("2 January 2006") + "\n" + told.Subject,
		At:    *told.SentAt,
		Parts: []sealcopy.Part{{Label: told.Name, Text: strings.TrimSpace(told.Body)}},
	}
	pdf, err := paper.Draw()
	if err != nil {
		return err
	}
	return r.Download("letter-"+r.Case.Ref+".pdf", "application/pdf", pdf)
}

// sumSaid is what somebody is given: its sum, and the awards it comes from.
func sumSaid(f *form.Form, g decision.Given) string {
	var labels, sums []string
	for _, l := range g.Lines {
		labels = append(labels, f.Design.AwardLabel(string(l.Award)))
		if sums = append(sums, ""); l.Amount > 0 {
			sums[len(sums)-1] = money.Format(l.Amount, f.Design.Currency)
		}
	}
	total := ""
	if g.Amount > 0 {
		total = money.Format(g.Amount, f.Design.Currency)
	}
	return say.SumOfAwards(total, labels, sums)
}
