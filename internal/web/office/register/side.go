package register

import (
	"errors"
	"net/url"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/refusal"
	"ulvant/core/register"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// panel is what a form beside the list could not do, and what was typed there.
type panel struct {
	wrong  refusal.Refusal
	typed  string
	shared bool
}

// side is what stands beside the list: one of its members, or nothing.
type side struct {
	Add     *addPanel
	Cond    *condPanel
	Columns *columnsPanel
	Keep    *keepPanel
	Case    *casePanel
	Close   string // address of the list without it
}

// Open reports that something stands beside the list.
func (s side) Open() bool {
	return s.Add != nil || s.Cond != nil || s.Columns != nil || s.Keep != nil || s.Case != nil
}

// addPanel offers the columns one can ask about.
type addPanel struct{ Groups []addGroup }

type addGroup struct {
	Name  register.Group
	Links []addLink
}

type addLink struct{ Heading, Href string }

// condPanel asks what a column is to be.
type condPanel struct {
	Col     register.Column
	At      string // number of the condition that is changed; "" for another
	Op      register.Op
	Ops     []opChoice
	Options []optionChoice
	Value   string // typed, of what is not chosen
	Hint    string
	Problem refusal.Refusal
	To      string
	Shape   []field
	Off     string
}

type opChoice struct {
	Op    register.Op
	Label string
}

type optionChoice struct {
	register.Option
	On bool
}

// columnsPanel offers the columns that can be shown.
type columnsPanel struct {
	Groups []columnGroup
	To     string
	Shape  []field
	Usual  string
}

type columnGroup struct {
	Name    register.Group
	Columns []columnChoice
}

type columnChoice struct {
	register.Column
	On    bool
	Place int // among those shown; 0 for one that is not
}

// keepPanel asks for the name of a view.
type keepPanel struct {
	To, Shape string
	Name      string
	Shared    bool
	Sentence  string
	Problem   refusal.Refusal
	Mine      []viewLink
	Address   string // of the views, to send
}

// opLabels say the operators on a list of them.
var opLabels = map[register.Op]string{register.Is: "is one of", register.Not: "is none of",
	register.Has:   "has the words",
	register.Least: "is at least", register.Most: "is at most", register.From: "on or after",
	register.Until:  "on or before",
	register.Within: "in the last so many days", register.Older: "more than so many days ago",
	register.Coming: "in the next so many days", register.Blank: "is blank", register.There: "is there"}

// side is what the address asks for beside the list.
func (p panel) side(r *site.Request, l listed, values url.Values) (s side, err error) {
	what, arg, _ := strings.Cut(values.Get("beside"), ".")
	more := []string{}
	if from := values.Get("from"); from != "" {
		more = append(more, "from", from)
	}
	s.Close = l.href(l.Shape, more...)
	switch what {
	case "add":
		if c, ok := l.Columns.Find(arg); ok {
			s.Cond = p.condition(l, c, "", register.Condition{Column: c.Key})
			break
		}
		s.Add = &addPanel{}
		for _, g := range register.Groups {
			group := addGroup{Name: g}
			for _, c := range l.Columns.In(g) {
				if !c.Hidden {
					group.Links = append(group.Links, addLink{c.Heading, l.href(l.Shape, "beside", "add."+c.Key)})
				}
			}
			if group.Links != nil {
				s.Add.Groups = append(s.Add.Groups, group)
			}
		}
	case "if":
		n, err := strconv.Atoi(arg)
		if err != nil || n < 0 || n >= len(l.Shape.Filter) {
			break
		}
		if c, ok := l.Columns.Find(l.Shape.Filter[n].Column); ok {
			s.Cond = p.condition(l, c, arg, l.Shape.Filter[n])
			s.Cond.Off = l.href(l.Shape.Without(n))
		}
	case "columns":
		s.Columns = columnsOf(l)
	case "keep":
		s.Keep = &keepPanel{To: strings.TrimSuffix(l.Base, "/applications") + "/views",
			Shape: l.Shape.Address(l.Usual).Encode(), Name: p.typed, Shared: p.shared, Problem: p.wrong,
			Sentence: l.Shape.Filter.Text(l.Columns, l.Currency)}
		list, err := r.Colleagues.Views(r.Context, r.DB, l.Round, r.Account.ID)
		if err != nil {
			return s, err
		}
		for _, v := range list {
			if v.ByID == r.Account.ID {
				s.Keep.Mine = append(s.Keep.Mine, viewLink{View: v, Mine: true, Href: r.Config.BaseURL + "/office/views/" +
					strconv.FormatInt(v.ID, 10)})
			}
		}
	case "case":
		s.Case, err = besideOf(r, l, arg)
	}
	return s, err
}

func (p panel) condition(l listed, c register.Column, at string, now register.Condition) *condPanel {
	out := &condPanel{Col: c, At: at, Op: now.Op, To: l.Base + "/condition", Shape: fields(l.Shape.Address(l.Usual)),
		Problem: p.wrong}
	for _, op := range c.Type.Ops() {
		out.Ops = append(out.Ops, opChoice{op, opLabels[op]})
	}
	if out.Op == "" {
		out.Op = out.Ops[0].Op
	}
	for _, o := range c.Options {
		on := false
		for _, v := range now.Values {
			on = on || v == o.Value
		}
		out.Options = append(out.Options, optionChoice{o, on})
	}
	if c.Options == nil || !c.Open && c.Type != register.Choice && c.Type != register.Several {
		out.Value = now.Said(c, l.Currency)
	}
	switch c.Type {
	case register.Money:
		out.Hint = "20,000"
	case register.Share:
		out.Hint = "80"
	case register.Day:
		out.Hint = "1 July 2027"
	case register.Moment:
		out.Hint = "7, or 1 July 2027"
	}
	return out
}

func columnsOf(l listed) *columnsPanel {
	out := &columnsPanel{To: l.Base + "/columns", Shape: fields(l.Shape.Address(l.Usual))}
	bare := l.Shape
	bare.Columns = l.Usual
	out.Usual = l.href(bare, "beside", "columns")
	place := map[string]int{}
	for i, key := range l.Shape.Columns {
		place[key] = i + 1
	}
	for _, g := range register.Groups {
		group := columnGroup{Name: g}
		for _, c := range l.Columns.In(g) {
			if !c.Hidden && c.Key != register.KeyTitle {
				group.Columns = append(group.Columns, columnChoice{c, place[c.Key] > 0, place[c.Key]})
			}
		}
		if group.Columns != nil {
			out.Groups = append(out.Groups, group)
		}
	}
	return out
}

// casePanel is a case beside the list.
type casePanel struct {
	application.Case
	St      application.Standing
	Asked   string
	Until   string
	Lacks   []string
	Rules   []ruleLine
	Letters []string
	Kept    view.Kept
	Close   string // "" on a page of its own
}

type ruleLine struct{ Label, Reason string }

// besideOf draws the case that the address names, when it is seen.
func besideOf(r *site.Request, l listed, ref string) (*casePanel, error) {
	c, err := r.Cases.Find(r.Context, r.DB, ref)
	if errors.Is(err, application.ErrNotFound) {
		return nil, nil // the list stands alone
	}
	if err != nil {
		return nil, err
	}
	s := l.Sought
	s.Shape, s.Entries, s.Most = register.Shape{}, []int64{c.EntryID}, 1
	rows, err := r.Desk.Register(r.Context, s)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	return caseBeside(r, c, l.href(l.Shape, "beside", "case."+c.Ref))
}

// caseBeside is a case in short; here is the address its forms lead back to.
func caseBeside(r *site.Request, c application.Case, here string) (*casePanel, error) {
	f, err := r.Rounds.Form(r.Context, r.DB, c.DesignID)
	if err != nil {
		return nil, err
	}
	out := &casePanel{Case: c}
	if out.St, err = r.Cases.Standing(r.Context, r.DB, c.EntryID); err != nil {
		return nil, err
	}
	columns := register.Of(f)
	if out.St.Asked != nil {
		col, _ := columns.Find(register.KeyAsked)
		out.Asked = col.Figure(strconv.FormatInt(*out.St.Asked, 10), f.Design.Currency)
	}
	seen := map[string]bool{}
	for _, code := range out.St.Codes() {
		if what := say.Stuck(code); !seen[what] {
			seen[what] = true
			out.Lacks = append(out.Lacks, what)
		}
	}
	found, err := r.Checks.Of(r.Context, r.DB, c.EntryID)
	if err != nil {
		return nil, err
	}
	names := say.RuleNames(f)
	for _, x := range found {
		if x.Result() != "yes" {
			out.Rules = append(out.Rules, ruleLine{names[x.Rule], say.Found(f, x.Rule, x.Reason)})
		}
	}
	asked, err := r.Referees.Of(r.Context, r.DB, c.EntryID)
	if err != nil {
		return nil, err
	}
	for _, a := range asked {
		out.Letters = append(out.Letters, a.Name+": "+say.Letter(a.State))
	}
	out.Kept, err = office.KeptOf(r, c, here)
	return out, err
}

// besidePage is what office/register/beside.html draws.
type besidePage struct{ Side side }

// Beside draws a case alone, for the list to put beside itself.
func Beside(r *site.Request) error {
	p, err := caseBeside(r, r.Case, back(r, "/office/applications/"+r.Case.Ref))
	if err != nil {
		return err
	}
	return drawBeside(r, p)
}

func drawBeside(r *site.Request, p *casePanel) error {
	status := fiber.StatusOK
	if p.Kept.Problem != "" {
		status = fiber.StatusUnprocessableEntity
	}
	return r.Draw(status, "office/register/beside", view.Page{Title: r.Case.Title, Nav: "rounds",
		Data: besidePage{side{Case: p}}})
}
