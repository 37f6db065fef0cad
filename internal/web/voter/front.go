package voter

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/ballot"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// polled is a vote that a visitor asks for.
type polled struct {
	Form     *form.Form
	Vote     ballot.Vote
	Projects []ballot.Project
}

// poll finds the vote of the request's round; a round without one, or one that has no
// ballot paper yet, is not there for visitors before its time is announced.
func poll(r *site.Request) (p polled, err error) {
	if p.Form, err = r.Rounds.Published(r.Context, r.DB, r.Round); err != nil {
		return p, err
	}
	if p.Form.Votes() == nil {
		return p, fiber.ErrNotFound
	}
	if p.Vote, err = r.Ballots.Of(r.Context, r.DB, r.Round.ID); err != nil {
		return p, err
	}
	if p.Form, err = r.Ballots.Rules(r.Context, r.DB, p.Vote, p.Form); err != nil {
		return p, err
	}
	if p.shows(r.At) {
		p.Projects, err = r.Ballots.OnPaper(r.Context, r.DB, r.Round.ID)
	}
	return p, err
}

// shows reports that everybody may see the ballot paper: from the opening on.
func (p polled) shows(at time.Time) bool {
	return p.Vote.Phase(p.Form, at) != ballot.Preparing && p.Vote.Laid != nil
}

// Voting is what every page of a vote shows.
type Voting struct {
	Key, Name string
	Design    form.Vote
	Currency  string
	Phase     ballot.Phase
	Opens     time.Time
	Closes    time.Time
	Zone      *time.Location
	Rules     []string
	Contact   string
	Kept      int // days for which addresses are kept
}

func (p polled) voting(r *site.Request) Voting {
	w := p.Form.VoteWindow()
	return Voting{Key: r.Round.Key, Name: r.Round.Name, Design: *p.Form.Design.Vote, Currency: p.Form.Design.Currency,
		Phase: p.Vote.Phase(p.Form, r.At), Opens: w.Opens, Closes: w.Closes, Zone: p.Form.Zone, Rules: say.VoteRules(p.Form),
		Contact: p.Form.Design.Contact, Kept: ballot.KeptDays}
}

// frontPage is what voter/front.html draws.
type frontPage struct {
	Voting
	Projects []ballot.Project
	Sent     string // address to which a mail is on its way
	Wrong    refusal.Refusal
	Address  string // as typed
	Code     string
	Declared []string
}

// Says reports a declaration that was ticked.
func (d frontPage) Says(what string) bool { return slices.Contains(d.Declared, what) }

// Front is the page of a vote; when its result is published, the result.
func Front(r *site.Request) error {
	p, err := poll(r)
	if err != nil {
		return err
	}
	if p.Vote.Phase(p.Form, r.At) == ballot.Result {
		return result(r, p)
	}
	return front(r, p, frontPage{}, fiber.StatusOK)
}

func front(r *site.Request, p polled, d frontPage, status int) error {
	d.Voting, d.Projects = p.voting(r), p.Projects
	return r.Draw(status, "voter/front", view.Page{Title: d.Design.Asks, Nav: "votes", Data: d})
}

// waitPage is what voter/wait.html draws: whose turn has not come.
type waitPage struct {
	Voting
	At      time.Time // of the turn
	Seconds int
	Post    string // where it goes on
	Fields  map[string][]string
}

// turn lets a try go on, or draws the page on which it waits.
func turn(r *site.Request, p polled, what, to string, fields map[string][]string, on func() error) error {
	var t ballot.Turn
	if err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		t, err = r.Ballots.Wait(ctx, tx, p.Vote, p.Form, r.Client(), what, r.FormValue("turn"))
		return err
	}); err != nil {
		return err
	}
	if t.At.IsZero() {
		return on()
	}
	fields["turn"] = []string{t.Sign}
	wait := int(t.At.Sub(r.At)/time.Second) + 1
	d := waitPage{Voting: p.voting(r), At: t.At, Seconds: wait, Post: to, Fields: fields}
	return r.Draw(fiber.StatusOK, "voter/wait", view.Page{Title: "In a moment", Nav: "votes", Data: d})
}

// Ask sends the link of a ballot to an address.
func Ask(r *site.Request) error {
	p, err := poll(r)
	if err != nil {
		return err
	}
	d := frontPage{Address: strings.TrimSpace(r.FormValue("address")), Declared: r.Values("declares")}
	if miss := p.Form.Design.Vote.Undeclared(d.Declared); miss != "" {
		d.Wrong = refusal.In("declares", "To vote, you declare: “"+miss+"”")
		return front(r, p, d, fiber.StatusUnprocessableEntity)
	}
	fields := map[string][]string{"address": {d.Address}, "declares": d.Declared}
	return turn(r, p, "mail:"+d.Address, "/votes/"+r.Round.Key+"/ask", fields, func() error {
		err := r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.Ballots.Ask(ctx, tx, r.Round, p.Form, p.Vote, d.Address, r.Client())
		})
		if no, ok := refusal.Of(err); ok {
			if err := noted(r, p, err); err != nil {
				return err
			}
			d.Wrong = no
			return front(r, p, d, fiber.StatusUnprocessableEntity)
		}
		if err != nil {
			return err
		}
		return front(r, p, frontPage{Sent: d.Address}, fiber.StatusOK)
	})
}

// noted counts what did not become a ballot.
func noted(r *site.Request, p polled, no error) error {
	return r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Ballots.NoteTry(ctx, tx, p.Form, p.Vote, no) })
}

// Code opens a ballot by a code on paper.
func Code(r *site.Request) error {
	p, err := poll(r)
	if err != nil {
		return err
	}
	d := frontPage{Code: strings.TrimSpace(r.FormValue("code")), Declared: r.Values("declares")}
	if miss := p.Form.Design.Vote.Undeclared(d.Declared); miss != "" {
		d.Wrong = refusal.In("declared", "To vote, you declare: “"+miss+"”")
		return front(r, p, d, fiber.StatusUnprocessableEntity)
	}
	fields := map[string][]string{"code": {d.Code}, "declares": d.Declared}
	return turn(r, p, "code:"+d.Code, "/votes/"+r.Round.Key+"/code", fields, func() error {
		var token ballot.Token
		err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
			token, err = r.Ballots.Enter(ctx, tx, p.Form, p.Vote, d.Code, r.Client())
			return err
		})
		if no, ok := refusal.Of(err); ok {
			if err := noted(r, p, err); err != nil {
				return err
			}
			if d.Wrong = no; d.Wrong.Field == "" {
				d.Wrong.Field = "code"
			}
			return front(r, p, d, fiber.StatusUnprocessableEntity)
		}
		if err != nil {
			return err
		}
		return r.See("/ballot/" + string(token))
	})
}

// onPaper finds a project of a ballot paper that everybody may see.
func (p polled) onPaper(number string) (ballot.Project, error) {
	for _, x := range p.Projects {
		if number == itoa(*x.Number) {
			return x, nil
		}
	}
	return ballot.Project{}, fiber.ErrNotFound
}

// projectPage is what voter/project.html draws.
type projectPage struct {
	Voting
	Project ballot.Project
}

// Project is one project as the public sees it.
func Project(r *site.Request) error {
	p, err := poll(r)
	if err != nil {
		return err
	}
	x, err := p.onPaper(r.Params("number"))
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "voter/project", view.Page{Title: x.Title, Nav: "votes",
		Data: projectPage{p.voting(r), x}})
}

// Picture sends a picture of a project that stands on the paper, small or large and
// without its properties.
func Picture(r *site.Request) error {
	p, err := poll(r)
	if err != nil {
		return err
	}
	for _, x := range p.Projects {
		for _, id := range x.Pictures {
			if itoa(int(id)) != r.Params("file") {
				continue
			}
			f, err := r.Materials.Find(r.Context, r.DB, id, x.Entry)
			if err != nil {
				return err
			}
			if s := r.Query("seen"); s != "small" && s != "large" {
				return fiber.ErrNotFound // never the file itself, with its properties
			}
			return r.SendMaterial(f)
		}
	}
	return fiber.ErrNotFound
}

// fault is a refusal that a page shows, or the error.
func fault(err error) (refusal.Refusal, error) {
	if no, ok := refusal.Of(err); ok {
		return no, nil
	}
	return refusal.Refusal{}, err
}
