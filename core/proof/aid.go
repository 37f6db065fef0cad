package proof

import (
	"ulvant/core/money"
)

// aid looks at the ceilings of public aid. The rows of a table are an
// applicant's to fill, so that somebody who received none can always stay under
// a ceiling, unless the least that may be asked for lies above it already: that
// alone is a mistake of the design, and it is seen without solving anything. Who
// received so much that nothing can be given is refused on purpose.
func (p *prover) aid() {
	cur := p.f.Design.Currency
	for i := range p.f.Design.Sections {
		s := &p.f.Design.Sections[i]
		for j := range s.Questions {
			q := &s.Questions[j]
			if q.Aid == nil || q.Aid.Ceiling == 0 {
				continue
			}
			request := p.f.Question(q.Aid.Request)
			if request == nil {
				continue
			}
			least, most, _ := request.Amounts()
			switch ceiling := q.Aid.Ceiling; {
			case least != nil && *least > ceiling:
				p.found(Finding{Grade: CannotOpen, Code: AidOver, Path: pathOf(s.Key, q.Key),
					Says: "Nobody can stay under the ceiling of " + money.Format(ceiling, cur) + " in " + quoted(q.Label) +
						": the least that can be asked for is " + money.Format(*least, cur) + "."})
			case most != nil && *most > ceiling:
				p.found(Finding{Grade: Note, Code: AidOver, Path: pathOf(s.Key, q.Key),
					Says: "Up to " + money.Format(*most, cur) + " can be asked for, and whoever asks more than " +
						money.Format(ceiling, cur) + " is above the ceiling in " + quoted(q.Label) + " without any aid before."})
			}
		}
	}
}
