package pathtable

import (
	"slices"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/proof"
	"ulvant/core/say"
)

// Need is what somebody will need, who is of one of several kinds.
type Need struct {
	Kinds                     []string // that are still possible
	MinutesLeast, MinutesMost int
	MustLeast, MustMost       int // questions that must be answered
	FeeLeast, FeeMost         int64
	Have                      []Thing
	Asked                     map[form.Key]State // of every question and section of the first stage
}

// Thing is something to have ready.
type Thing struct {
	Says string
	Sure bool // of every kind that is possible; else of some
}

// Possible are the columns that somebody may be of who has answered so far.
func (t *Table) Possible(path *form.Path) []int {
	var out []int
	for i, c := range t.Columns {
		if !slices.ContainsFunc(c.Splits, func(s proof.Split) bool { return against(path, s) }) {
			out = append(out, i)
		}
	}
	return out
}

// against reports an answer that puts somebody in the other half of a split. A
// question that is not answered yet is against nothing.
func against(path *form.Path, s proof.Split) bool {
	st := path.Find(s.Question)
	if st == nil || st.Presence == condition.Blank || st.Presence == condition.Unsettled ||
		st.Presence == condition.Declared {
		return false
	}
	return !s.Holds(path)
}

// Need sums up what somebody of one of these columns will need.
func (t *Table) Need(f *form.Form, of []int) Need {
	n := Need{Asked: map[form.Key]State{}}
	for k, i := range of {
		c := t.Columns[i]
		n.Kinds = append(n.Kinds, c.Name)
		if k == 0 {
			n.MinutesLeast, n.MinutesMost, n.MustLeast, n.MustMost, n.FeeLeast, n.FeeMost = c.Minutes, c.Minutes, c.Questions,
				c.Questions, c.FeeLeast, c.FeeMost
		}
		n.MinutesLeast, n.MinutesMost = min(n.MinutesLeast, c.Minutes), max(n.MinutesMost, c.Minutes)
		n.MustLeast, n.MustMost = min(n.MustLeast, c.Questions), max(n.MustMost, c.Questions)
		n.FeeLeast, n.FeeMost = min(n.FeeLeast, c.FeeLeast), max(n.FeeMost, c.FeeMost)
	}
	for _, r := range t.Rows {
		state := Not
		all := true
		for _, i := range of {
			all = all && r.Cells[i].State == Must
			if r.Cells[i].State != Not {
				state = May
			}
		}
		if all && len(of) > 0 {
			state = Must
		}
		n.Asked[r.Key] = state
		if state == Not || r.Section {
			continue
		}
		if says := say.Have(f, f.Question(r.Key)); says != "" {
			n.Have = append(n.Have, Thing{says, state == Must})
		}
	}
	return n
}
