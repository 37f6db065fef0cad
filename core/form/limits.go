package form

import (
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/slot"
)

// limits finds the case that holds; while that is open, the loosest still
// possible, member by member.
func (w *walk) limits(q *question) (Limits, bool) {
	var open []Limits
	for i := range q.limits {
		switch v := q.limits[i].Eval(w.frame); v.Tri {
		case condition.Yes:
			return w.form.loosest(q.def.Limits.When[i].Then, open), len(open) == 0
		case condition.Unknown:
			open = append(open, q.def.Limits.When[i].Then)
		}
	}
	return w.form.loosest(q.def.Limits.Else, open), len(open) == 0
}

func (f *Form) loosest(l Limits, others []Limits) Limits {
	for _, o := range others {
		for _, m := range [][2]*int{{&l.Words, &o.Words}, {&l.Characters, &o.Characters}, {&l.MonthsOld, &o.MonthsOld},
			{&l.PickMost, &o.PickMost}, {&l.RowsMost, &o.RowsMost}} {
			*m[0] = looser(*m[0], *m[1])
		}
		for _, m := range [][2]*int{{&l.LeastWords, &o.LeastWords}, {&l.PickLeast, &o.PickLeast},
			{&l.RowsLeast, &o.RowsLeast}, {&l.Referees, &o.Referees}} {
			*m[0] = min(*m[0], *m[1])
		}
		l.MatchPercent = min(l.MatchPercent, o.MatchPercent)
		l.MatchOfAsked = min(l.MatchOfAsked, o.MatchOfAsked)
		l.InKindMost = int64(looser(int(l.InKindMost), int(o.InKindMost)))
		if l.Least == nil || o.Least == nil {
			l.Least = nil
		} else if *o.Least < *l.Least {
			l.Least = o.Least
		}
		if l.Most == nil || o.Most == nil {
			l.Most = nil
		} else if *o.Most > *l.Most {
			l.Most = o.Most
		}
		if o.NotBefore.Zero() || l.NotBefore != nil && f.Day(o.NotBefore) < f.Day(l.NotBefore) {
			l.NotBefore = o.NotBefore
		}
		if o.NotAfter.Zero() || l.NotAfter != nil && f.Day(o.NotAfter) > f.Day(l.NotAfter) {
			l.NotAfter = o.NotAfter
		}
		if len(o.Caps) == 0 {
			l.Caps = nil
		}
		l.Slot = looserSlot(l.Slot, o.Slot)
	}
	return l
}

// looser of two limits that bound from above; 0 does not limit.
func looser(a, b int) int {
	if a == 0 || b == 0 {
		return 0
	}
	return max(a, b)
}

func looserSlot(a, b *slot.Limits) *slot.Limits {
	if a == nil || b == nil {
		return a
	}
	l := *a
	l.SizeMost, l.SizeAll = max(l.SizeMost, b.SizeMost), int64(looser(int(l.SizeAll), int(b.SizeAll)))
	l.FilesMost, l.FilesLeast = max(l.FilesMost, b.FilesMost), min(l.FilesLeast, b.FilesLeast)
	l.PagesMost, l.SecondsMost = looser(l.PagesMost, b.PagesMost), looser(l.SecondsMost, b.SecondsMost)
	l.ExcerptMost = looser(l.ExcerptMost, b.ExcerptMost)
	l.WidthLeast, l.HeightLeast = min(l.WidthLeast, b.WidthLeast), min(l.HeightLeast, b.HeightLeast)
	l.DPILeast, l.SecondsLeast = min(l.DPILeast, b.DPILeast), min(l.SecondsLeast, b.SecondsLeast)
	l.TypeLeast = min(l.TypeLeast, b.TypeLeast)
	l.TextLeast, l.TitleApart = l.TextLeast && b.TextLeast, l.TitleApart || b.TitleApart
	if l.Wish == slot.NotAccepted {
		l.Wish = b.Wish
	}
	if b.Same != l.Same {
		l.Same = ""
	}
	if b.PageSize != l.PageSize {
		l.PageSize = ""
	}
	if b.Colour == "" {
		l.Colour = ""
	}
	if b.MadeSince < l.MadeSince {
		l.MadeSince = b.MadeSince
	}
	if b.Paper == "" {
		l.Paper = ""
	}
	if len(b.Ticks) == 0 {
		l.Ticks = nil
	}
	return &l
}

// cellValue reads one cell of a table the office keeps.
func cellValue(c Column, cell string) condition.Value {
	if c.Numbers {
		if n, ok := decimal.Parse(cell); ok {
			return condition.Value{Number: &n}
		}
	}
	return condition.Value{Text: cell}
}
