package designer

import (
	"slices"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/proof"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// trial is one section of a scratch copy.
type trial struct {
	Label  string
	Asked  bool
	Why    string
	Fields []tried
}

// tried is one question of it; files and letters are only said to be there.
type tried struct {
	field.Field
	Third bool // a file, a letter or a confirmation
	There bool
}

// left is one thing in the way of sending.
type left struct{ What, Remedy, Anchor string }

// tryPage is what designer/try.html draws.
type tryPage struct {
	Base     string
	Round    round.Round
	Sections []trial
	Left     []left
	Who      string
	Verdict  form.Outcome
	Rules    []form.RuleState
	Names    map[form.Key]string
	Done     int
	All      int
	Zone     *time.Location
}

// Try lets the officer go through the design as somebody of any kind, or as the
// example of a finding, in a scratch copy: everything stands in the form that
// is posted, nothing is written anywhere.
func Try(r *site.Request) error {
	f, faults, err := r.Rounds.Working(r.Round)
	if err != nil {
		return err
	}
	base := "/office/rounds/" + r.Round.Key + "/design"
	if len(faults) > 0 {
		r.Tell("It can be tried once the design is whole.")
		return r.See(base)
	}
	filled, who, err := scratch(r, f)
	if err != nil {
		return err
	}
	path := f.Walk(filled)
	names := say.Names{Form: f}
	var sections []trial
	for i := range f.Design.Sections {
		s := &f.Design.Sections[i]
		if f.Place(s.Stage) != f.Place("") {
			continue
		}
		t := trial{Label: s.Label, Asked: path.Sections[i].Asked == condition.Yes, Why: say.When(s.Asked, names)}
		for j := range s.Questions {
			q := &s.Questions[j]
			x := tried{Field: field.New(f, filled, path, q, nil)}
			switch q.Keeps() {
			case form.AsFiles:
				x.Third, x.There = true, len(filled.Files[q.Key]) > 0
			case form.AsPeople:
				x.Third, x.There = true, len(filled.Referees[q.Key]) > 0
			}
			t.Fields = append(t.Fields, x)
		}
		sections = append(sections, t)
	}
	var lefts []left
	for _, o := range path.Obstacles {
		what, remedy := say.Obstacle(f, o)
		lefts = append(lefts, left{what, remedy, "q-" + string(o.Place.Question)})
	}
	return r.Draw(fiber.StatusOK, "designer/try", view.Page{Title: "Trying " + r.Round.Name, Nav: "rounds",
		Data: tryPage{Base: base, Round: r.Round, Sections: sections, Left: lefts, Who: who, Verdict: path.Verdict(),
			Rules: path.Rules, Names: say.RuleNames(f),
			Done: path.Done, All: path.All, Zone: f.Zone}})
}

// scratch is what stands in the form, or the example that was asked for.
func scratch(r *site.Request, f *form.Form) (*form.Filled, string, error) {
	if value(r, "typed") == "yes" {
		filled := &form.Filled{Answers: field.FromForm(r, f), Files: map[form.Key][]slot.File{},
			Referees: map[form.Key][]form.RefereeStanding{}, Lead: form.ExampleLead, Today: today(r, f)}
		there := r.Values("there")
		for _, s := range f.Design.Sections {
			for i := range s.Questions {
				q := &s.Questions[i]
				if slices.Contains(there, string(q.Key)) {
					exampleOf(q, filled)
				}
			}
		}
		return filled, value(r, "who-is"), nil
	}
	var a *proof.Applicant
	who := "somebody who begins with nothing"
	switch {
	case value(r, "code") != "":
		report, err := r.Rounds.Proofs.Of(r.Context, f)
		if err != nil {
			return nil, "", err
		}
		for _, x := range report.Findings {
			if string(x.Code) == value(r, "code") && x.Path == value(r, "of") {
				a, who = x.Example, "the applicant of the finding “"+x.Says+"”"
			}
		}
	case value(r, "who") != "":
		n, _ := strconv.Atoi(value(r, "who"))
		var err error
		if a, err = r.Rounds.Proofs.Example(r.Context, f, n); err != nil {
			return nil, "", err
		}
		t, err := r.Rounds.Proofs.Table(r.Context, f)
		if err != nil {
			return nil, "", err
		}
		if n >= 0 && n < len(t.Columns) {
			who = t.Columns[n].Name
		}
	}
	if a == nil {
		return &form.Filled{Answers: map[form.Place]form.Answer{}, Lead: form.ExampleLead, Today: today(r, f)}, who, nil
	}
	return a.Filled, who, nil
}

func today(r *site.Request, f *form.Form) calendar.Date { return calendar.DateOf(r.At, f.Zone) }

// exampleOf puts as many files or letters there as are asked for.
func exampleOf(q *form.Question, filled *form.Filled) {
	switch q.Keeps() {
	case form.AsFiles:
		n := 1
		if l := q.Limits.Else.Slot; l != nil {
			n = max(n, l.FilesLeast)
		}
		for i := range n {
			filled.Files[q.Key] = append(filled.Files[q.Key], slot.File{ID: int64(i + 1), Name: "an example", State: slot.Ready})
		}
	case form.AsPeople:
		for range max(q.Limits.Else.Referees, 1) {
			filled.Referees[q.Key] = append(filled.Referees[q.Key], form.RefereeStanding{Name: "somebody", Letter: form.SentIn})
		}
	}
}
