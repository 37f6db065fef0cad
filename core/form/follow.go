package form

import (
	"time"

	"ulvant/core/condition"
)

// Promise is an answer that an applicant said would follow, with the instant
// until which it is taken: the end of the question's day in the round's zone.
type Promise struct {
	Question Key
	Due      time.Time
}

// Promises lists what was promised in an application: answers on its path that
// are to follow, of questions that give them a day.
func (f *Form) Promises(p *Path) (out []Promise) {
	for i := range p.Questions {
		st := &p.Questions[i]
		q := f.Question(st.Key)
		if st.Asked != condition.Yes || st.Non != ToFollow || q == nil || q.FollowBy.Zero() {
			continue
		}
		y, m, d := f.Day(q.FollowBy).Civil()
		out = append(out, Promise{q.Key, time.Date(y, m, d+1, 0, 0, 0, 0, f.Zone)})
	}
	return out
}

// FollowRule is the key under which a case waits for what was promised.
func FollowRule(question Key) Key { return "follow-" + question }
