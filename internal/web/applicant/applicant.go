// Package applicant holds the pages of those who apply.
package applicant

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/desk"
	"ulvant/internal/guidance"
	"ulvant/internal/material"
	"ulvant/internal/reference"
	"ulvant/internal/round"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// mineRow is one application in the list of the account.
type mineRow struct {
	Item     desk.Item
	Stage    string // where there are several
	Closes   time.Time
	Zone     *time.Location
	Currency string
	State    lifecycle.State
	Open     bool
}

// Mine lists the applications of the account.
func Mine(r *site.Request) error {
	list, err := r.Desk.Mine(r.Context, r.Account.ID)
	if err != nil {
		return err
	}
	ids := make([]int64, len(list))
	for i, it := range list {
		ids[i] = it.RoundID
	}
	rounds, err := r.Rounds.Some(r.Context, ids)
	if err != nil {
		return err
	}
	of := map[int64]round.Round{}
	for _, rd := range rounds {
		of[rd.ID] = rd
	}
	var rows []mineRow
	for _, it := range list {
		f, err := r.Rounds.Published(r.Context, r.DB, of[it.RoundID])
		if err != nil {
			return err
		}
		closes := f.StageWindow(it.Stage).Closes
		if it.Until != nil { // it may be sent later, or answered until a query is due
			closes = *it.Until
		}
		stage := ""
		if len(f.Applying()) > 1 {
			stage = f.Design.StageLabel(it.Stage)
		}
		rows = append(rows, mineRow{it, stage, closes, f.Zone, f.Design.Currency, it.State,
			(it.State.Writing() || it.State.Open()) && r.At.Before(closes)})
	}
	return r.Draw(fiber.StatusOK, "applicant/mine", view.Page{Title: "My applications", Nav: "applications", Data: rows})
}

// Left is one thing in the way of sending.
type Left struct {
	Move         lifecycle.Move
	What, Remedy string
	Link, Where  string
}

// Step is one section on the path.
type Step struct {
	Key, Label string
	Href       string
	Current    bool
	Asked      bool
	Why        string // why it is not asked
	Done, All  int
	Full       bool
	Third      bool
	Share      float64 // of the ring
}

// Desk is the workspace.
type Desk struct {
	Case       application.Case
	Form       *form.Form
	Section    *form.Section
	Fields     []field.Field
	Steps      []Step
	Left       []Left
	Prev, Next *Step
	Path       *form.Path
	Closes     time.Time
	Zone       *time.Location
	Open       bool
	Kept       time.Time
	DoneRules  int
	CSRF       string
	Lead       bool
	Stages     []casefile.StageLink // where there are several
	Query      *application.Query   // that handed it back; nil for a draft
	Reopened   []Reopened
	MayAskTime bool
	Together   bool             // others write or read it too
	Papers     int              // files beside the round
	Newer      []guidance.Paper // those of them that are newer than the draft
	live       bool             // it can be written, by those who may
	answers    map[form.Place]form.Answer
	files      []guidance.Paper
}

// Place puts a field on the page of the case.
func (d *Desk) Place(f field.Field) field.Placed {
	return field.Placed{F: f, Ref: d.Case.Ref, CSRF: d.CSRF, Query: d.Query != nil, Zone: d.Zone}
}

// Reopened is a question that the office's query opened again.
type Reopened struct{ Label, Href string }

func stages(r *site.Request, f *form.Form) ([]casefile.StageLink, error) {
	return casefile.StagesAt(r, f, "/applications/")
}

// load draws up the workspace for one section, with all that stands beside it.
func load(r *site.Request, section string) (*Desk, error) {
	w, err := r.Cases.Look(r.Context, r.DB, r.Case, r.At)
	if err != nil && !conflict(err) {
		return nil, err
	}
	d, err := stands(r, section, w, err == nil)
	if err != nil {
		return nil, err
	}
	return d, d.beside(r)
}

// beside adds what is drawn with a page, and what a save's answer does without:
// earlier versions, comments, differences from the profile, the stages.
func (d *Desk) beside(r *site.Request) error {
	earlier, err := r.Intake.WithEarlier(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	team, err := r.Cases.Team(r.Context, r.DB, r.Case.ID)
	if err != nil {
		return err
	}
	comments, err := commentsOf(r)
	if err != nil {
		return err
	}
	differ, err := differences(r, d.Form, d.answers)
	if err != nil {
		return err
	}
	d.Together = len(team) > 1 && d.live
	for i := range d.Fields {
		fl, k := &d.Fields[i], d.Fields[i].Q.Key
		fl.Earlier, fl.Differs, fl.Comments, fl.Together = earlier[k], differ[k], comments[k], d.Together
	}
	if d.files == nil {
		if d.files, err = r.Program.Guidance.Of(r.Context, r.DB, d.Case.RoundID); err != nil {
			return err
		}
	}
	if d.Papers = len(d.files); d.Case.State.Is(lifecycle.Writing) {
		d.Newer = newer(d.files, d.Case.CreatedAt)
	}
	d.Stages, err = stages(r, d.Form)
	return err
}

// stands draws up a section of a case as it was walked; open: it can be written.
func stands(r *site.Request, section string, w *application.Whole, open bool) (*Desk, error) {
	f, filled, path := w.Form, w.Filled, w.Path
	d := &Desk{Case: r.Case, Form: f, Path: path, Closes: r.Case.Window(f).Closes, Zone: f.Zone,
		Lead: r.Account.ID == r.Case.LeadID,
		Open: open, CSRF: r.FormToken()}
	if d.Query = w.Query; d.Query != nil {
		for _, k := range w.Only {
			d.Reopened = append(d.Reopened, Reopened{f.Question(k).Label,
				"/applications/" + d.Case.Ref + "/sections/" + string(f.SectionOf(k)) + "#q-" + string(k)})
		}
		if section == "" && len(w.Only) > 0 {
			section = string(f.SectionOf(w.Only[0]))
		}
	}
	for _, a := range w.Rows {
		if a.At.After(d.Kept) {
			d.Kept = a.At
		}
	}
	for _, rule := range path.Rules {
		if rule.Outcome == form.Holds {
			d.DoneRules++
		}
	}
	d.steps(section)
	if d.Section == nil {
		return nil, fiber.ErrNotFound
	}
	versions := field.Versions(w.Rows)
	files, referees, err := d.others(r)
	if err != nil {
		return nil, err
	}
	named, err := persons(r, f, filled, referees)
	if err != nil {
		return nil, err
	}
	shelf, err := d.shelf(r)
	if err != nil {
		return nil, err
	}
	if d.files, err = d.papers(r); err != nil {
		return nil, err
	}
	d.live, d.answers = d.Open, filled.Answers
	d.Open = d.Open && r.May(access.WriteCase)
	d.MayAskTime = r.May(access.AskTime)
	for i := range d.Section.Questions {
		q := &d.Section.Questions[i]
		fl := field.New(f, filled, path, q, versions)
		fl.ReadOnly = !d.Open || !w.Takes(q.Key)
		for _, p := range d.files {
			if p.Slot == q.Key {
				fl.Fill, fl.Round = append(fl.Fill, p), d.Case.RoundKey
			}
		}
		for _, m := range files {
			if m.Slot == q.Key {
				fl.AddFile(filled, versions, m)
				fl.Files[len(fl.Files)-1].Warn = cmp.Or(say.NamesAuthor(d.Form, q, m.Facts.Facts), oldTemplate(fl.Fill, m))
			}
		}
		fl.OfferShelf(shelf)
		for _, x := range named {
			if x.Question == q.Key {
				fl.Referees = append(fl.Referees, x)
			}
		}
		d.Fields = append(d.Fields, fl)
	}
	d.Left = lefts(f, path, d.Case.Ref)
	return d, nil
}

// shelf is what may be attached, read only where the section takes files.
func (d *Desk) shelf(r *site.Request) ([]material.Shelved, error) {
	takes := slices.ContainsFunc(d.Section.Questions, func(q form.Question) bool { return q.TakesFiles() })
	if !takes || !d.Open || !r.May(access.WriteCase) {
		return nil, nil
	}
	return r.Materials.Shelf(r.Context, r.DB, r.Account.ID)
}

// others are the files and referees of the case, read only where the section
// asks for any.
func (d *Desk) others(r *site.Request) (files []material.File, referees []reference.Referee, err error) {
	asks := func(is func(*form.Question) bool) bool {
		for i := range d.Section.Questions {
			if is(&d.Section.Questions[i]) {
				return true
			}
		}
		return false
	}
	if asks((*form.Question).TakesFiles) {
		if files, err = r.Materials.Of(r.Context, r.DB, r.Case.EntryID); err != nil {
			return nil, nil, err
		}
	}
	if asks((*form.Question).AsksPeople) {
		referees, err = r.Referees.Of(r.Context, r.DB, r.Case.EntryID)
	}
	return files, referees, err
}

func (d *Desk) steps(section string) {
	names := say.Names{Form: d.Form}
	base := "/applications/" + d.Case.Ref + "/sections/"
	for i := range d.Form.Design.Sections {
		s, st := &d.Form.Design.Sections[i], d.Path.Sections[i]
		step := Step{Key: string(s.Key), Label: s.Label, Href: base + string(s.Key), Asked: st.Asked == condition.Yes,
			Done: st.Done, All: st.All,
			Full: st.All > 0 && st.Done == st.All, Third: st.Third && st.Done < st.All}
		if st.All > 0 {
			step.Share = float64(st.Done) / float64(st.All)
		}
		switch later := d.Form.Design.StageLabel(s.Stage); {
		case step.Asked:
		case s.Stage == form.AfterSending:
			continue // a survey is not part of the application
		case d.Form.Settled(s, form.Key(d.Case.Stage)):
			continue // it was asked in an earlier stage, and can be read there
		case s.Stage != "" && string(s.Stage) != d.Case.Stage && later != "":
			step.Why = "asked later: “" + later + "”"
			if d.Form.ByInvitation(s.Stage) {
				step.Why += ", for those invited on"
			}
		default:
			step.Why = "asked only if " + say.When(s.Asked, names)
		}
		if section == "" && step.Asked && d.Section == nil || section == step.Key {
			d.Section, step.Current = s, true
		}
		d.Steps = append(d.Steps, step)
	}
	for i := range d.Steps {
		if !d.Steps[i].Current {
			continue
		}
		for j := i - 1; j >= 0 && d.Prev == nil; j-- {
			if d.Steps[j].Asked {
				d.Prev = &d.Steps[j]
			}
		}
		for j := i + 1; j < len(d.Steps) && d.Next == nil; j++ {
			if d.Steps[j].Asked {
				d.Next = &d.Steps[j]
			}
		}
	}
}

// Ledger reports a section with a grid, which takes the room of the path beside it.
func (d *Desk) Ledger() bool {
	return slices.ContainsFunc(d.Fields, func(f field.Field) bool { return f.Costs != nil })
}

// mostLines is how many faults in the lines of a budget are told of one by one.
const mostLines = 6

// lefts gathers obstacles for the list: blanks of one section together, and many
// faults in the lines of one budget.
func lefts(f *form.Form, path *form.Path, ref string) []Left {
	var out []Left
	label := map[form.Key]string{}
	for _, s := range f.Design.Sections {
		label[s.Key] = s.Label
	}
	blanks := map[form.Key]int{}
	for _, o := range path.Obstacles {
		if o.Code == form.CodeBlank {
			blanks[o.Section]++
		}
	}
	lines := map[form.Key]int{} // of a budget
	for _, o := range path.Obstacles {
		if q := f.Question(o.Place.Question); o.Place.Row != "" && q != nil && q.Keeps() == form.InLines {
			lines[q.Key]++
		}
	}
	told := map[form.Key]bool{}
	for _, o := range path.Obstacles {
		if n := lines[o.Place.Question]; o.Place.Row != "" && n > mostLines {
			if told[o.Place.Question] {
				continue
			}
			told[o.Place.Question] = true
			out = append(out, Left{Move: o.Move, What: fmt.Sprintf("%s: %d things to mend in its lines",
				f.Question(o.Place.Question).Label, n), Where: label[o.Section],
				Link: "/applications/" + ref + "/sections/" + string(o.Section) + "#q-" + string(o.Place.Question)})
			continue
		}
		l := Left{Move: o.Move, Link: "/applications/" + ref + "/sections/" + string(o.Section) + "#q-" +
			string(o.Place.Question), Where: label[o.Section]}
		if o.Section == "" { // it hangs on the applicant's others, on nothing asked here
			l.Link, l.Where = "/applications", "All your applications"
		}
		l.What, l.Remedy = say.Obstacle(f, o)
		if n := blanks[o.Section]; o.Code == form.CodeBlank && n > 1 {
			if told[o.Section] {
				continue
			}
			told[o.Section] = true
			l.What, l.Remedy = strconv.Itoa(n)+" questions unanswered", ""
		}
		out = append(out, l)
	}
	return out
}

// Workspace draws one section; a case that was sent goes to its page.
func Workspace(r *site.Request) error {
	if r.Case.State.Is(lifecycle.Offered) {
		return drawInvitation(r, fiber.StatusOK, "")
	}
	if !r.Case.State.Open() && r.Case.SealID != nil {
		return r.See("/applications/" + r.Case.Ref + "/sent" + r.Case.Query())
	}
	d, err := load(r, r.Params("section"))
	if err != nil {
		return err
	}
	return draw(r, fiber.StatusOK, d)
}

func draw(r *site.Request, status int, d *Desk) error {
	return r.Draw(status, "applicant/workspace", view.Page{Title: d.Case.Title, Nav: "applications", Data: d})
}
