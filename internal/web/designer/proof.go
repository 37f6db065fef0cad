package designer

import (
	"net/url"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/pathtable"
	"ulvant/core/proof"
	"ulvant/core/say"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// shown is a finding as it is drawn.
type shown struct {
	proof.Finding
	Href    string
	Reasons []link
	At      int // among the findings of its code and path, for its mends
}

type link struct{ Says, Href string }

// panel is the proof beside the design, with the rows of the table that differ.
type panel struct {
	Base                      string
	Round                     round.Round
	Faults                    int
	Cannot, Think, Notes      []shown
	Open                      []proof.Open
	Unseen                    []string
	Table                     *pathtable.Table
	Rows                      []pathtable.Row
	Currency                  string
	Path                      string
	Why                       *why
	Formula                   string
	Fees                      bool
	Papers, Letters, Confirms bool // some column has any
}

// why explains one cell.
type why struct {
	Who, What string
	Asked     bool
	Because   []link
}

func (p *panel) link(path string) string {
	if path == "" {
		return p.Base + "?tab=round"
	}
	s := strings.Split(path, "/")
	if len(s) == 1 {
		return p.Base + "?tab=" + tabFor(path).Key
	}
	n := 2 // the thing itself, not its member
	if s[0] == "sections" && len(s) > 3 {
		n = 4
	}
	return p.Base + "?path=" + url.QueryEscape(strings.Join(s[:n], "/"))
}

func (p *panel) shown(list []proof.Finding) (out []shown) {
	for _, f := range list {
		s := shown{Finding: f, Href: p.link(f.Path)}
		for _, b := range f.Because {
			s.Reasons = append(s.Reasons, link{b.Says, p.link(b.Path)})
		}
		out = append(out, s)
	}
	return out
}

func prove(r *site.Request, table bool) (*panel, *form.Form, error) {
	f, faults, err := r.Rounds.Working(r.Round)
	if err != nil {
		return nil, nil, err
	}
	p := &panel{Base: "/office/rounds/" + r.Round.Key + "/design", Round: r.Round, Faults: len(faults),
		Currency: f.Design.Currency, Path: value(r, "path"), Formula: pathtable.Formula}
	if len(faults) > 0 {
		return p, f, nil
	}
	report, err := r.Rounds.Proofs.Of(r.Context, f)
	if err != nil {
		return nil, nil, err
	}
	p.Cannot, p.Think, p.Notes = p.shown(report.Of(proof.CannotOpen)), p.shown(report.Of(proof.ThinkAgain)),
		p.shown(report.Of(proof.Note))
	p.Open, p.Unseen = report.Open, report.Unseen
	if !table {
		return p, f, nil
	}
	if p.Table, err = r.Rounds.Proofs.Table(r.Context, f); err != nil {
		return nil, nil, err
	}
	for _, c := range p.Table.Columns {
		p.Fees = p.Fees || c.FeeMost > 0
		p.Papers, p.Letters, p.Confirms = p.Papers || c.Papers > 0, p.Letters || c.Letters > 0, p.Confirms ||
			c.Confirmations > 0
	}
	return p, f, nil
}

// Proof is the proof beside the design: a part of its page, or a page of its
// own without scripts.
func Proof(r *site.Request) error {
	p, _, err := prove(r, false)
	if err != nil {
		return err
	}
	page := view.Page{Title: "Proof of " + r.Round.Name, Nav: "rounds", Data: p}
	if !r.Wants("fragment") {
		return r.Draw(fiber.StatusOK, "designer/proof", page)
	}
	return part(r, "designer/proof", "panel", page)
}

// part sends one block of a page, for htmx to put in its place.
func part(r *site.Request, name, block string, page view.Page) error {
	page.CSRF = r.FormToken()
	html, err := r.Views.Block(name, block, page)
	if err != nil {
		return err
	}
	r.Set(fiber.HeaderCacheControl, "no-store")
	r.Type("html", "utf-8")
	return r.Send(html)
}

// Mend makes a change that the proof offers.
func Mend(r *site.Request) error {
	f, _, err := r.Rounds.Working(r.Round)
	if err != nil {
		return err
	}
	report, err := r.Rounds.Proofs.Of(r.Context, f)
	if err != nil {
		return err
	}
	n, _ := strconv.Atoi(value(r, "n"))
	for _, x := range report.Findings {
		if string(x.Code) == value(r, "code") && x.Path == value(r, "of") && n >= 0 && n < len(x.Mends) &&
			x.Mends[n].Says == value(r, "says") {
			r.Tell("Done: " + x.Mends[n].Says + ". Undo takes it back.")
			return edit(r, x.Mends[n].Ops, there(r, value(r, "path")))
		}
	}
	return draw(r, fiber.StatusConflict,
		state{problem: "Nothing was changed: the design is not what it was when that was offered."})
}

// tablePage is what designer/table.html draws.
type tablePage struct {
	P   *panel
	All bool // rows in which nobody differs, too
}

// Table is the page of who is asked what.
func Table(r *site.Request) error {
	p, f, err := prove(r, true)
	if err != nil {
		return err
	}
	if p.Table != nil {
		all := value(r, "rows") == "all"
		for _, row := range p.Table.Rows {
			if all || row.Differs {
				p.Rows = append(p.Rows, row)
			}
		}
		if key := value(r, "why"); key != "" {
			if p.Why, err = explain(r, p, f, form.Key(key)); err != nil {
				return err
			}
		}
	}
	page := view.Page{Title: "Who is asked what in " + r.Round.Name, Nav: "rounds",
		Data: tablePage{P: p, All: value(r, "rows") == "all"}}
	if r.Wants("fragment") {
		return part(r, "designer/table", "part", page)
	}
	return r.Draw(fiber.StatusOK, "designer/table", page)
}

func explain(r *site.Request, p *panel, f *form.Form, key form.Key) (*why, error) {
	q := f.Question(key)
	column, err := strconv.Atoi(value(r, "who"))
	if q == nil || err != nil || column < 0 || column >= len(p.Table.Columns) {
		return nil, nil
	}
	asked, because, err := r.Rounds.Proofs.Why(r.Context, f, column, key)
	if err != nil {
		return nil, err
	}
	w := &why{Who: p.Table.Columns[column].Name, What: q.Label, Asked: asked}
	for _, b := range because {
		w.Because = append(w.Because, link{b.Says, p.link(b.Path)})
	}
	if len(because) == 0 && !q.Asked.Always() {
		w.Because = []link{{"It is asked if " + say.When(q.Asked, say.Names{Form: f}),
			p.link("sections/" + string(f.SectionOf(key)) + "/questions/" + string(key))}}
	}
	return w, nil
}

// TableRows is the table for a spreadsheet, or another program.
func TableRows(r *site.Request) error {
	p, f, err := prove(r, true)
	if err != nil {
		return err
	}
	if p.Table == nil {
		return draw(r, fiber.StatusConflict, state{problem: "The table can be worked out once the design is whole."})
	}
	return r.Give(r.Round.Key+".who-is-asked-what", p.Table.Sheet(f.Design.Currency))
}
