package register

import (
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
)

// The columns that every case has, by their keys.
const (
	KeyLead     = "lead"
	KeyMail     = "mail"
	KeyState    = "state"
	KeyMove     = "move"
	KeyPlace    = "place"
	KeyStage    = "stage"
	KeyDone     = "done"
	KeyLacks    = "lacks"
	KeyLetter   = "letter"
	KeyCarer    = "carer"
	KeyLabels   = "labels"
	KeyNotes    = "notes"
	KeyRound    = "round"
	KeyBegun    = "begun"
	KeyChanged  = "changed"
	KeySent     = "sent"
	KeyUntil    = "until"
	KeyNudged   = "nudged"
	KeyVerdict  = "verdict"
	KeyToSettle = "tosettle"
	KeyQuery    = "query"
	KeyReaders  = "readers"
	KeyMarks    = "marks"
	KeyScore    = "score"
	KeyAsked    = "asked"
	KeyGiven    = "given"
	KeyCharged  = "charged"
	KeyPaid     = "paid"
	KeyTitle    = "title"
	KeyFind     = "find"
)

// Default are the columns of a register that nobody has shaped.
func Default(f *form.Form) []string {
	out := []string{KeyLead, KeyPlace, KeyState, KeyDone}
	if f == nil {
		return []string{KeyRound, KeyLead, KeyPlace, KeyState, KeyChanged}
	}
	if asksForLetters(f) {
		out = append(out, KeyLetter)
	}
	if f.Design.Request != "" {
		out = append(out, KeyAsked)
	}
	return append(out, KeyChanged)
}

func asksForLetters(f *form.Form) bool {
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			if s.Questions[i].AsksPeople() {
				return true
			}
		}
	}
	return false
}

// Of lists the columns of a round's register: what is known of every case, then
// what its form asks. A nil form is the register of all rounds.
func Of(f *form.Form) Columns {
	out := ofEveryCase(f)
	if f == nil {
		return out
	}
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			q := &s.Questions[i]
			c, ok := ofQuestion(f, q)
			if !ok {
				continue
			}
			if out = append(out, c); q.Keeps() == form.InLines {
				out = append(out, Column{Key: matchMark + string(q.Key), Heading: "Others pay, of “" + q.Label + "”", Type: Share,
					Group: c.Group, Once: true})
			}
		}
	}
	for i := range f.Design.Figures {
		x := &f.Design.Figures[i]
		t, unit := figureType(f, x)
		out = append(out, Column{Key: figureMark + string(x.Key), Heading: x.Label, Type: t, Unit: unit, Group: OfFigures,
			Once: t == Share, Options: yesNo(t)})
	}
	return out
}

func ofEveryCase(f *form.Form) Columns {
	heading := "Place or field"
	out := Columns{
		{Key: KeyFind, Heading: "Title, lead or number", Type: Words, Group: OfCase, Hidden: true},
		{Key: KeyLead, Heading: "Lead", Type: Words, Group: OfCase, Is: "led by"},
		{Key: KeyMail, Heading: "Lead’s address", Type: Words, Group: OfCase},
		{Key: KeyTitle, Heading: "Title", Type: Words, Group: OfCase},
		{Key: KeyState, Heading: "Where it is", Type: Choice, Group: OfCase, Options: states(), Is: "that are",
			All: []Phrase{{texts(lifecycle.With(lifecycle.In)), "in"}, {texts(lifecycle.With(lifecycle.Ended)), "ended"}}},
		{Key: KeyMove, Heading: "Whose move", Type: Choice, Group: OfCase, Options: moves(), Is: "that wait for"},
	}
	place := Column{Key: KeyPlace, Type: Choice, Group: OfCase, Is: "in", Open: true}
	if f != nil {
		if f.Design.Listed.Heading != "" {
			heading = f.Design.Listed.Heading
		}
		if q := f.Question(f.Design.Listed.Question); q != nil {
			for _, o := range f.Options(q) {
				place.Options = append(place.Options, Option{Value: o.Label, Label: o.Label})
			}
			place.Open = false
		}
	} else {
		out = append(out, Column{Key: KeyRound, Heading: "Round", Type: Choice, Group: OfCase, Open: true, Is: "of"})
	}
	place.Heading = heading
	out = append(out, place)
	if f != nil && len(f.Applying()) > 1 {
		c := Column{Key: KeyStage, Heading: "Stage", Type: Choice, Group: OfCase, Is: "at"}
		for _, s := range f.Applying() {
			c.Options = append(c.Options, Option{Value: string(s.Key), Label: s.Label})
		}
		out = append(out, c)
	}
	out = append(out,
		Column{Key: KeyDone, Heading: "Done", Type: Share, Group: OfCase, Once: true},
		Column{Key: KeyLacks, Heading: "What stands in the way", Type: Several, Group: OfCase, Open: true, Is: "that lack"})
	if f == nil || asksForLetters(f) {
		out = append(out, Column{Key: KeyLetter, Heading: "Letter", Type: Choice, Group: OfCase, Options: letters(),
			Is: "whose letter", All: []Phrase{{letterMissing, "has not come"}}})
	}
	out = append(out,
		Column{Key: KeyCarer, Heading: "Looked after by", Type: Choice, Group: OfCase, Open: true, Is: "looked after by"},
		Column{Key: KeyLabels, Heading: "Labels", Type: Several, Group: OfCase, Open: true, Is: "labelled"},
		Column{Key: KeyNotes, Heading: "Notes", Type: Number, Group: OfCase},
		Column{Key: KeyBegun, Heading: "Begun", Type: Moment, Group: OfDates, Is: "begun"},
		Column{Key: KeyChanged, Heading: "Last change", Type: Moment, Group: OfDates, Is: "last changed"},
		Column{Key: KeySent, Heading: "Sent", Type: Moment, Group: OfDates, Is: "sent"},
		Column{Key: KeyUntil, Heading: "To be sent by", Type: Moment, Group: OfDates, Is: "to be sent"},
		Column{Key: KeyNudged, Heading: "Last nudged", Type: Moment, Group: OfDates, Is: "last nudged"},
		Column{Key: KeyVerdict, Heading: "Rules", Type: Choice, Group: OfChecks, Is: "whose rules are",
			Options: []Option{{Value: "yes", Label: "met", Says: "all met"}, {Value: "person", Label: "to be looked at"},
				{Value: "no", Label: "not met"}}},
		Column{Key: KeyToSettle, Heading: "Rules to settle", Type: Number, Group: OfChecks},
		Column{Key: KeyQuery, Heading: "Query", Type: Choice, Group: OfChecks, Is: "whose query is",
			Options: []Option{{Value: "open", Label: "open"}, {Value: "answered", Label: "answered"},
				{Value: "taken back", Label: "taken back"}, {Value: "ran out", Label: "ran out"}}},
		Column{Key: KeyReaders, Heading: "Readers", Type: Number, Group: OfChecks},
		Column{Key: KeyMarks, Heading: "Marks in", Type: Number, Group: OfChecks},
	)
	if f != nil && len(f.Design.Criteria) > 0 {
		out = append(out, Column{Key: KeyScore, Heading: "Mean score", Type: Number, Group: OfChecks, Once: true})
	}
	if f != nil && f.Design.Request != "" {
		out = append(out, Column{Key: KeyAsked, Heading: "Asked", Type: Money, Group: OfMoney, Is: "asking"})
	}
	if f != nil {
		out = append(out, Column{Key: KeyGiven, Heading: "Awarded", Type: Money, Group: OfMoney, Is: "awarded"})
		if len(f.Design.Fees) > 0 {
			out = append(out, Column{Key: KeyCharged, Heading: "Fee", Type: Money, Group: OfMoney},
				Column{Key: KeyPaid, Heading: "Fee paid", Type: Money, Group: OfMoney})
		}
	}
	return out
}

func texts[T ~string](list []T) []string {
	out := make([]string, len(list))
	for i, x := range list {
		out[i] = string(x)
	}
	return out
}

func states() (out []Option) {
	for _, s := range lifecycle.States() {
		o := Option{Value: string(s), Label: string(s)}
		if s.Drafting() {
			o.Says = "still being written"
		}
		out = append(out, o)
	}
	return out
}

func moves() (out []Option) {
	for _, m := range lifecycle.Moves {
		out = append(out, Option{Value: string(m), Label: say.Mover(m), Says: say.WhoseMove(m)})
	}
	return out
}

var letterMissing = texts([]form.LetterState{form.ToAsk, form.Asked, form.Accepted, form.Uploaded, form.Declined})

func letters() (out []Option) {
	for _, l := range []struct {
		state form.LetterState
		says  string
	}{{form.ToAsk, "is still to be asked for"}, {form.Asked, "was asked for, without an answer"},
		{form.Accepted, "was promised"}, {form.Uploaded, "is uploaded and not sent"}, {form.SentIn, "has come"},
		{form.Declined, "cannot be had from who was asked"}} {
		out = append(out, Option{Value: string(l.state), Label: say.Letter(l.state), Says: l.says})
	}
	return out
}

// ofQuestion is the column of a question; ok is false for those whose answers are
// not the register's: of a survey, which is kept apart, and those that are used
// without being shown.
func ofQuestion(f *form.Form, q *form.Question) (c Column, ok bool) {
	if q.Purpose == form.ForSurvey || q.Purpose == form.ForMatching || q.Keeps() == form.AsPeople ||
		q.Key == f.Design.Request || q.Key == f.Design.Listed.Question {
		return c, false
	}
	c = Column{Key: answerMark + string(q.Key), Heading: q.Label, Group: OfAnswers, Type: Words}
	if q.Purpose == form.ForReports {
		c.Group = OfReports
	}
	for _, o := range f.Options(q) {
		c.Options = append(c.Options, Option{Value: string(o.Key), Label: o.Label})
	}
	switch {
	case q.Keeps() == form.InRows:
		c.Type, c.Unit, c.Options = Number, "rows", nil
	case q.Keeps() == form.AsFiles:
		c.Type, c.Unit = Number, "files"
	case q.Type() == condition.TypeYes:
		c.Type, c.Options = Choice, yesNo(Choice)
	case q.Type() == condition.TypeSet && c.Options != nil:
		c.Type = Several
	case q.PicksOne():
		c.Type = Choice
	case q.Type() == condition.TypeDate:
		c.Type = Day
	default:
		switch q.Measure() {
		case form.Sums:
			c.Type = Money
		case form.Shares:
			c.Type, c.Once = Share, true
		case form.Scaled, form.Whole:
			c.Type, c.Unit = Number, q.Unit
		default:
			c.Options = nil
		}
	}
	return c, true
}

func yesNo(t Type) []Option {
	if t != Choice {
		return nil
	}
	return []Option{{Value: "yes", Label: "yes"}, {Value: "no", Label: "no"}}
}

// figureType says what a figure is worked out as: a sum of money only where all
// that it is made of is money.
func figureType(f *form.Form, x *form.Figure) (Type, string) {
	switch x.Op {
	case form.Share:
		return Share, ""
	case form.AgeOn:
		return Number, "years"
	case form.MonthsTo:
		return Number, "months"
	case form.AnyRow, form.EveryRow:
		return Choice, ""
	case form.CountWhere, form.StepOf:
		return Number, ""
	}
	if !slices.ContainsFunc(x.Of, func(r condition.Ref) bool { return !isMoney(f, r) }) {
		return Money, ""
	}
	return Number, ""
}

// isMoney reports something a figure is made of that is a sum of money. Figures
// are never made of one another in a ring.
func isMoney(f *form.Form, r condition.Ref) bool {
	if r.Figure != "" {
		for i := range f.Design.Figures {
			if x := &f.Design.Figures[i]; x.Key == r.Figure {
				t, _ := figureType(f, x)
				return t == Money
			}
		}
		return false
	}
	q := f.Question(r.Answer)
	if q == nil {
		return false
	}
	for i := range q.Columns {
		if q.Columns[i].Key == r.Column {
			return q.Columns[i].Measure() == form.Sums
		}
	}
	return q.Measure() == form.Sums
}

// heading in the middle of a sentence.
func (c Column) within() string { return "“" + strings.TrimRight(c.Heading, "?.:") + "”" }
