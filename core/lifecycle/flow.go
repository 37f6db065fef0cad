package lifecycle

// Flow is how many applications went where: from begun, to sent, to what became
// of them. Begun is Open, Owing, Lapsed, Withdrawn and Sent together; Lapsed are
// those not sent, or not paid for, in time.
type Flow struct {
	Begun, Open, Owing, Lapsed, Withdrawn, Sent int
	Checking, NotEligible, Reading              int
	Awarded, CameBack, Reserve, NotAwarded      int
}

// FlowOf sums counts by state.
func FlowOf(n map[State]int) (f Flow) {
	for s, k := range n {
		f.Begun += k
		for fact, to := range map[Fact]*int{Writing: &f.Open, Owes: &f.Owing, Missed: &f.Lapsed,
			Gone: &f.Withdrawn, In: &f.Sent,
			TurnedDown: &f.NotEligible, ToCheck | ToSettle: &f.Checking, UnderWay: &f.Reading, Gives: &f.Awarded,
			Back:  &f.CameBack,
			Waits: &f.Reserve, Declined: &f.NotAwarded} {
			if s.Is(fact) {
				*to += k
			}
		}
	}
	return f
}
