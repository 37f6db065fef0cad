package form

import (
	"crypto/sha256"
	"encoding/binary"
	"strconv"
	"ulvant/core/condition"
)

// Criteria are those that apply to a case where it is judged: by its readers, at
// "", or in a stage of interviews. One whose condition cannot be told applies,
// since a person can.
func (f *Form) Criteria(path *Path, at Key) (out []Criterion) {
	for i, c := range f.Design.Criteria {
		if c.At == at && path.Criteria[i] != condition.No {
			out = append(out, c)
		}
	}
	return out
}

// Controlled reports a case, by the number of its entry, that one reader more marks as a
// control. It is drawn from the number and the key of the round: whoever draws it again
// draws the same, and no reader can tell.
func (d *Design) Controlled(entry int64) bool {
	if d.Control <= 0 {
		return false
	}
	sum := sha256.Sum256([]byte(string(d.Key) + ":control:" + strconv.FormatInt(entry, 10)))
	return binary.BigEndian.Uint64(sum[:8])%100 < uint64(d.Control)
}

// Judged are all criteria of one place, whatever a case is like.
func (d *Design) Judged(at Key) (out []Criterion) {
	for _, c := range d.Criteria {
		if c.At == at {
			out = append(out, c)
		}
	}
	return out
}

// Weighs is the sum of the weights of what is judged in one place, in percent.
func (d *Design) Weighs(at Key) (sum int) {
	for _, c := range d.Judged(at) {
		sum += c.Weight
	}
	return sum
}

// PointKey names a pass point among those of all criteria.
func PointKey(criterion, point Key) string { return string(criterion) + "." + string(point) }
