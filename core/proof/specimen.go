package proof

import (
	"strconv"

	"ulvant/core/form"
	"ulvant/core/slot"
)

// finish answers all that still stands in the way of an applicant whose
// deciding answers are given: texts long enough, files, letters, statements.
// kept are the questions that stay as they are. It answers whether nothing is
// left but the rules.
func finish(f *form.Form, filled *form.Filled, kept map[form.Key]bool) *form.Path {
	path := f.Walk(filled)
	for range 60 {
		changed := false
		for _, o := range path.Obstacles {
			if o.Code != form.CodeNotEligible && mend(f, filled, path, o, kept) {
				changed = true
			}
		}
		if !changed {
			break
		}
		path = f.Walk(filled)
	}
	return path
}

func mend(f *form.Form, filled *form.Filled, path *form.Path, o form.Obstacle, kept map[form.Key]bool) bool {
	q, st := f.Question(o.Place.Question), path.Find(o.Place.Question)
	if q == nil || st == nil {
		return false
	}
	put := func(p form.Place, raw string) bool {
		if filled.Answers[p].Raw == raw {
			return false
		}
		filled.Answers[p] = form.Answer{Raw: raw}
		return true
	}
	at := o.Place
	switch o.Code {
	case form.CodeFileMissing, form.CodeFilesFew:
		n := len(filled.Files[q.Key])
		filled.Files[q.Key] = append(filled.Files[q.Key], slot.File{ID: int64(len(filled.Files)*100 + n + 1),
			Name: "example.pdf", Size: 1000, State: slot.Ready})
		return n < 30
	case form.CodeFileDetail:
		if at.Column == form.ColMade {
			return put(at, "2100-01-01")
		}
		return put(at, "an example")
	case form.CodeFileWhole:
		if others := filled.Files[form.Key(q.Needs())]; len(others) > 0 {
			return put(at, form.FileRow(others[0].ID))
		}
		return false
	case form.CodeFileTick:
		return put(at, "yes")
	case form.CodeRefereeMissing:
		n := len(filled.Referees[q.Key])
		filled.Referees[q.Key] = append(filled.Referees[q.Key],
			form.RefereeStanding{Name: "Referee " + strconv.Itoa(n+1), Letter: form.SentIn})
		return n < 30
	case form.CodeNotSure:
		return put(at, q.Sure.Marks()[0])
	case form.CodeNotApplied: // the awards applied for, in the order in which they are picked
		ranked := map[string]bool{}
		for _, p := range f.Parts(q) {
			ranked[filled.Answers[form.Place{Question: q.Key, Column: p.Key}].Raw] = true
		}
		for _, key := range f.AwardsPicked(path) {
			if !ranked[key] {
				return put(at, key)
			}
		}
		return put(at, "") // fewer are applied for than could be ranked
	case form.CodeTooFewRows:
		return f.Complete(filled, q, st)
	case form.CodePart, form.CodePartUnreadable:
		for _, p := range f.Parts(q) {
			if p.Key == at.Column {
				return put(at, f.ExampleOf(p))
			}
		}
	}
	if at.Row != "" && q.Keeps() == form.InRows { // a cell of a table
		for _, c := range f.Columns(q.Key) {
			if c.Key == at.Column && o.Code == form.CodeBlank {
				return put(at, f.Example(c, c.Limits.Else))
			}
		}
		return false
	}
	if kept[q.Key] {
		return false
	}
	switch q.Keeps() {
	case form.InText:
		return put(form.Place{Question: q.Key}, f.Example(q, st.Limits))
	case form.AsFiles, form.AsPeople:
		return false
	}
	return f.Complete(filled, q, st)
}
