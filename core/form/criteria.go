package form

import "ulvant/core/condition"

// Criteria are those that apply to a case: one whose condition cannot be told
// applies, since a reader can.
func (f *Form) Criteria(path *Path) (out []Criterion) {
	for i, c := range f.Design.Criteria {
		if path.Criteria[i] != condition.No {
			out = append(out, c)
		}
	}
	return out
}

// PointKey names a pass point among those of all criteria.
func PointKey(criterion, point Key) string { return string(criterion) + "." + string(point) }
