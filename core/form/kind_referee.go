package form

import (
	"ulvant/core/condition"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
)

var _ = register(kind{
	key: Referee, means: "Referee, who is asked for a letter by mail", keeps: AsPeople, anew: true,
	members: []string{"ask", "theirs"}, limits: []string{"referees"}, begin: beginAsking, compile: needAsk,
	check: checkReferee,
	ready: func(_ *Question, l Limits, _ string) string {
		return phrase.Count(int64(l.Referees), "referee", "referees") + ", by name and mail address; we write to them."
	},
	tenths: askingTakes,
})

func beginAsking(q *Question) { q.Limits.Else.Referees, q.Ask = 1, &Ask{} }

func needAsk(c *compiler, q *Question) {
	if q.Ask != nil {
		if q.Ask.By != nil && q.Ask.By.Key != "" {
			_, ok := c.f.Design.Moment(q.Ask.By.Key)
			c.need(ok, "the calendar has no %q", q.Ask.By.Key)
		}
		c.need(q.Ask.Reminders >= 0 && q.Ask.Reminders <= 20, "one person gets at most 20 reminders")
		c.need(q.Ask.Enough >= 0 && q.Ask.Enough <= max(q.Limits.Else.Referees, 1),
			"more would have to answer than are asked")
		for _, k := range q.Ask.Shows {
			i, there := c.f.index[k]
			c.need(there && i < c.walked, "what is confirmed shows %q, which is not asked before it", k)
		}
	}
	c.need(q.Limits.Else.Referees > 0, "say how many are asked")
}

// askingTakes five minutes for each person.
func askingTakes(_ *Question, l Limits) int { return 50 * max(l.Referees, 1) }

// checkReferee says whose move it is until enough have answered. What may come
// after the closing holds nothing up once its people are asked.
func checkReferee(w *walk, q *question, s *QuestionState) {
	standing, in, need := 0, 0, s.Limits.Referees
	if q.def.Ask != nil && q.def.Ask.Enough > 0 {
		need = min(need, q.def.Ask.Enough)
	}
	confirms, print := q.kind.confirms, ""
	list := w.filled.Referees[q.def.Key]
	if confirms && len(list) > 0 {
		print = w.form.Fingerprint(q.def, w.filled)
	}
	other := func(r RefereeStanding) bool { return confirms && r.Fingerprint != "" && r.Fingerprint != print }
	for _, r := range list {
		if r.Letter == SentIn && !other(r) {
			in++
		}
	}
	follows := w.form.Follows(q.def)
	for _, r := range list {
		if r.Letter == Replaced || in >= need && need < s.Limits.Referees && r.Letter != SentIn {
			continue
		}
		o := Obstacle{Name: r.Name, Day: r.Since, Move: lifecycle.Third}
		standing++
		switch {
		case r.Letter == ToAsk:
			o.Code, o.Move = CodeRefereeToAsk, lifecycle.Applicant
		case r.Bounced && r.Letter == Asked:
			o.Code, o.Move = CodeRefereeBounced, lifecycle.Applicant
		case r.Letter == Declined && need < s.Limits.Referees: // others may be enough
			standing--
			continue
		case r.Letter == Declined:
			o.Code, o.Move = CodeRefereeNo, lifecycle.Applicant
		case r.Letter == SentIn && other(r):
			o.Code, o.Move = CodeConfirmedOther, lifecycle.Applicant
		case r.Letter == SentIn || follows:
			continue
		case r.Letter == Asked:
			o.Code = CodeRefereeAsked
		case r.Letter == Accepted:
			o.Code = CodeRefereeWriting
		case r.Letter == Uploaded:
			o.Code = CodeLetterNotSent
		default:
			continue
		}
		w.obstacle(s, o)
	}
	if standing > 0 {
		s.Presence = condition.Given
	}
	if standing < need && s.Must != condition.No {
		w.obstacle(s, Obstacle{Code: CodeRefereeMissing, Have: int64(standing), Limit: int64(need)})
	}
}
