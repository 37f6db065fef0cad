package form

import (
	"ulvant/core/condition"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
)

var _ = register(kind{
	key: Referee, means: "Referee, who is asked for a letter by mail", keeps: AsPeople, anew: true,
	members: []string{"ask"}, limits: []string{"referees"}, begin: beginAsking, compile: needAsk, check: checkReferee,
	ready: func(_ *Question, l Limits, _ string) string {
		return phrase.Count(int64(l.Referees), "referee", "referees") + ", by name and mail address; we write to them."
	},
	tenths: askingTakes,
})

func beginAsking(q *Question) { q.Limits.Else.Referees, q.Ask = 1, &Ask{} }

func needAsk(c *compiler, q *Question) {
	if q.Ask != nil && q.Ask.By != nil && q.Ask.By.Key != "" {
		_, ok := c.f.Design.Moment(q.Ask.By.Key)
		c.need(ok, "the calendar has no %q", q.Ask.By.Key)
	}
	c.need(q.Limits.Else.Referees > 0, "say how many are asked")
}

// askingTakes five minutes for each person.
func askingTakes(_ *Question, l Limits) int { return 50 * max(l.Referees, 1) }

func checkReferee(w *walk, q *question, s *QuestionState) {
	standing := 0
	for _, r := range w.filled.Referees[q.def.Key] {
		if r.Letter == Replaced {
			continue
		}
		o := Obstacle{Name: r.Name, Day: r.Since, Move: lifecycle.Third}
		standing++
		switch r.Letter {
		case ToAsk:
			o.Code, o.Move = CodeRefereeToAsk, lifecycle.Applicant
		case Asked:
			o.Code = CodeRefereeAsked
		case Accepted:
			o.Code = CodeRefereeWriting
		case Declined:
			o.Code, o.Move = CodeRefereeNo, lifecycle.Applicant
		case Uploaded:
			o.Code = CodeLetterNotSent
		default:
			continue
		}
		w.obstacle(s, o)
	}
	if standing > 0 {
		s.Presence = condition.Given
	}
	if missing := s.Limits.Referees - standing; missing > 0 && s.Must != condition.No {
		w.obstacle(s, Obstacle{Code: CodeRefereeMissing, Have: int64(standing), Limit: int64(s.Limits.Referees)})
	}
}
