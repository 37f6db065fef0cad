package checking

import (
	"context"
	"slices"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/likeness"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/connection"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// mostFound is how many connections or texts stand on a page.
const mostFound = 200

// found is a connection as it is drawn.
type found struct {
	connection.Found
	Says   string
	Kinds  []string // what agrees, a word each
	Judges bool     // one of them reads, sits, gives or works at the office
}

// peoplePage is what office/checking/people.html draws.
type peoplePage struct {
	Tabs  []tab
	Rows  []found
	Ruled bool   // those ruled on are shown too
	Of    string // of one case alone
	May   bool
	Zone  *time.Location
	Wrong refusal.Refusal
	Note  string
	At    int64 // of which the fault is
}

// People lists who of a round’s cases belongs to whom.
func People(r *site.Request) error { return drawPeople(r, fiber.StatusOK, 0, refusal.Refusal{}) }

func drawPeople(r *site.Request, status int, at int64, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := peoplePage{Ruled: r.Query("ruled") != "", Of: r.Query("case"), May: r.May(access.RuleBeyond), Zone: f.Zone,
		Wrong: wrong,
		Note:  r.FormValue("note"), At: at}
	if d.Tabs, err = tabsOf(r, f, "/people"); err != nil {
		return err
	}
	w := connection.Which{Round: r.Round.ID, Ruled: d.Ruled || d.Of != "", Most: mostFound}
	if d.Of != "" {
		c, err := r.Cases.Find(r.Context, r.DB, d.Of)
		if err != nil || c.RoundID != r.Round.ID {
			return fiber.ErrNotFound
		}
		w.Case = c.ID
	}
	list, err := r.Connected.List(r.Context, r.DB, w)
	if err != nil {
		return err
	}
	may, err := shown(r)
	if err != nil {
		return err
	}
	for _, x := range list {
		hide(&x.A, may)
		hide(&x.B, may)
		row := found{Found: x, Judges: !x.B.Part.OfCase(), Says: say.Connected(
			say.ConnectedEnd{Name: x.A.Name, Ref: x.A.Ref, Part: x.A.Part},
			say.ConnectedEnd{Name: x.B.Name, Ref: x.B.Ref, Part: x.B.Part}, x.Same, x.A.Body && x.B.Body, x.Evidence, d.Of)}
		d.Rows = append(d.Rows, row)
	}
	return office.Draw(r, status, "office/checking/people", "People in common, "+r.Round.Name, "checks", f, d)
}

// elsewhere stands for what belongs to a round of which the viewer sees nothing.
const elsewhere = "a round that you do not see"

// shown reports of which rounds whoever asks sees the cases: this one, and those of
// their roles. Of others a page says that something is alike, and neither whose it
// is nor what it says.
func shown(r *site.Request) (func(round int64) bool, error) {
	seen, err := r.Rounds.Seen(r.Context, r.Sight())
	if err != nil {
		return nil, err
	}
	return func(round int64) bool {
		return round == 0 || round == r.Round.ID || seen.Whole == nil || slices.Contains(seen.Whole, round)
	}, nil
}

// hide what an end says where its round is not seen.
func hide(e *connection.End, may func(int64) bool) {
	if !may(e.RoundID) {
		e.Name, e.Ref, e.Title, e.Round = "somebody", "", "", elsewhere
	}
}

// hideText does so of a side of two texts.
func hideText(t *connection.AlikeText, may func(int64) bool) (hidden bool) {
	if may(t.RoundID) {
		return false
	}
	t.Ref, t.Title, t.Round, t.Lead, t.Text = "", "An application elsewhere", elsewhere, "", ""
	return true
}

// RulePeople rules on a connection.
func RulePeople(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	matters, no := ruling(r)
	if no.Says != "" {
		return drawPeople(r, fiber.StatusUnprocessableEntity, id, no)
	}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Checks.RuleConnection(ctx, tx, r.Round.ID, id, matters, r.FormValue("note"))
	})
	if refusal.AsUnfit(err, &no) {
		return drawPeople(r, fiber.StatusUnprocessableEntity, id, no)
	}
	if err != nil {
		return err
	}
	r.Tell("Ruled, for every place where these two meet. It can be ruled otherwise at any time.")
	return r.See("/office/rounds/" + r.Round.Key + "/checks/people")
}

// ruling reads what was chosen.
func ruling(r *site.Request) (matters bool, no refusal.Refusal) {
	switch r.FormValue("matters") {
	case "yes":
		return true, no
	case "no":
		return false, no
	}
	return false, refusal.In("matters", "Choose whether it matters.")
}

// textsPage is what office/checking/texts.html draws.
type textsPage struct {
	Tabs []tab
	Rows []alike
	Of   string
	Zone *time.Location
}

type alike struct {
	connection.Alike
	Question, Says string
}

// Texts lists which texts of a round’s cases are like others.
func Texts(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := textsPage{Of: r.Query("case"), Zone: f.Zone}
	if d.Tabs, err = tabsOf(r, f, "/texts"); err != nil {
		return err
	}
	var entry int64
	if d.Of != "" {
		c, err := r.Cases.Find(r.Context, r.DB, d.Of)
		if err != nil || c.RoundID != r.Round.ID {
			return fiber.ErrNotFound
		}
		entry = c.EntryID
	}
	list, err := r.Connected.AlikeIn(r.Context, r.DB, r.Round.ID, entry, mostFound)
	if err != nil {
		return err
	}
	may, err := shown(r)
	if err != nil {
		return err
	}
	for _, x := range list {
		of := x.A
		if !may(of.RoundID) {
			of = x.B
		}
		label, err := questionOf(r, of)
		if err != nil {
			return err
		}
		hideText(&x.A, may)
		hideText(&x.B, may)
		d.Rows = append(d.Rows, alike{x, label, say.Alike(x.Contained, x.Shared)})
	}
	return office.Draw(r, fiber.StatusOK, "office/checking/texts", "Like texts, "+r.Round.Name, "checks", f, d)
}

// questionOf is what a text answers.
func questionOf(r *site.Request, t connection.AlikeText) (string, error) {
	f, err := r.Rounds.Form(r.Context, r.DB, t.DesignID)
	if err != nil {
		return "", err
	}
	if q := f.Question(form.Key(t.Question)); q != nil {
		return q.Label, nil
	}
	return t.Question, nil
}

// textPage is what office/checking/text.html draws: two texts side by side.
type textPage struct {
	Tabs     []tab
	X        connection.Alike
	Says     string
	QA, QB   string
	A, B     []likeness.Piece
	Passages int
	May      bool
	Zone     *time.Location
	Wrong    refusal.Refusal
	Note     string
}

// Text shows two texts side by side.
func Text(r *site.Request) error { return drawText(r, fiber.StatusOK, refusal.Refusal{}) }

func drawText(r *site.Request, status int, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	x, err := r.Connected.Alike(r.Context, r.DB, id)
	if err != nil {
		return err
	}
	if x.A.RoundID != r.Round.ID && x.B.RoundID != r.Round.ID {
		return fiber.ErrNotFound
	}
	earlier := x.B.SentAt != nil && x.A.SentAt != nil && x.B.SentAt.Before(*x.A.SentAt)
	if x.A.RoundID != r.Round.ID || x.B.RoundID == r.Round.ID && earlier {
		x.A, x.B = x.B, x.A // the later one stands right
	}
	d := textPage{X: x, Says: say.Alike(x.Contained, x.Shared), May: r.May(access.RuleBeyond), Zone: f.Zone, Wrong: wrong,
		Note: r.FormValue("note")}
	if d.Tabs, err = tabsOf(r, f, "/texts"); err != nil {
		return err
	}
	if d.QA, err = questionOf(r, x.A); err != nil {
		return err
	}
	if d.QB, err = questionOf(r, x.B); err != nil {
		return err
	}
	list := likeness.Passages(x.A.Text, x.B.Text, likeness.Run)
	d.Passages = len(list)
	d.A, d.B = likeness.Cut(x.A.Text, list, 0), likeness.Cut(x.B.Text, list, 1)
	may, err := shown(r)
	if err != nil {
		return err
	}
	if hideText(&d.X.A, may) {
		d.A, d.QA = nil, ""
	}
	if hideText(&d.X.B, may) {
		d.B, d.QB = nil, ""
	}
	return office.Draw(r, status, "office/checking/text", "Side by side, "+r.Round.Name, "checks", f, d)
}

// RuleText rules on two texts.
func RuleText(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	matters, no := ruling(r)
	if no.Says != "" {
		return drawText(r, fiber.StatusUnprocessableEntity, no)
	}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Checks.RuleAlike(ctx, tx, r.Round.ID, id, matters, r.FormValue("note"))
	})
	if refusal.AsUnfit(err, &no) {
		return drawText(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	r.Tell("Ruled. It can be ruled otherwise at any time.")
	return r.See("/office/rounds/" + r.Round.Key + "/checks/texts")
}
