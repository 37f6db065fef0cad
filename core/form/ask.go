package form

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/slot"
)

// Ask is what a referee or signatory is asked.
type Ask struct {
	Who          string `json:"who,omitempty"`          // academic, of your choice, landowner
	Wants        string `json:"wants"`                  // what the letter should say, or what is confirmed
	Use          string `json:"use,omitempty"`          // what happens with it; a sentence for every round when empty
	After        string `json:"after,omitempty"`        // what the person sees or hears afterwards; likewise
	LetterMonths int    `json:"letterMonths,omitempty"` // a letter is at most so old on the day of closing
	YearsLeast   int    `json:"yearsLeast,omitempty"`   // it covers at least so many years
	By           *Day   `json:"by,omitempty"`           // taken until then; until the closing when nil
	Waits        bool   `json:"waits,omitempty"`        // a case whose letters are taken after the closing is not eligible before they are in
	Sight        Sight  `json:"sight,omitempty"`        // whether the applicant may read it
	Contact      bool   `json:"contact,omitempty"`      // the applicant says whether the office may get in touch with them
	Reminders    int    `json:"reminders,omitempty"`    // most that one person gets, in whatever way; MostReminders when 0
	Enough       int    `json:"enough,omitempty"`       // so many of those named are enough; all of them when 0
	Shows        []Key  `json:"shows,omitempty"`        // answers that are part of what is confirmed: changed later, it is asked for again
	Paper        bool   `json:"paper,omitempty"`        // may also be done on paper
}

// Sight says whether the applicant may read a letter.
type Sight string

// The ways.
const (
	SightNever  Sight = ""       // nobody but the office and those who judge
	SightChosen Sight = "chosen" // the applicant keeps the right to read it, or gives it up, when naming the person
	SightOpen   Sight = "open"   // the applicant reads it once it is sent
)

// MostReminders is how many reminders one person gets where a round says nothing.
const MostReminders = 4

// RemindersOf is the most reminders that one person gets; a nil Ask has the usual.
func (a *Ask) RemindersOf() int {
	if a == nil || a.Reminders == 0 {
		return MostReminders
	}
	return a.Reminders
}

// Reads reports whether the applicant may read what was sent. waived is what
// they said when they named the person; nil when they were not asked.
func (a *Ask) Reads(waived *bool) bool {
	if a == nil {
		return false
	}
	return a.Sight == SightOpen || a.Sight == SightChosen && waived != nil && !*waived
}

// Due is the instant until which answers of a person are taken: that of the
// question's own date, to the end of the day where it has no hour, or closes.
func (f *Form) Due(q *Question, closes time.Time) time.Time {
	if q == nil || q.Ask == nil || q.Ask.By.Zero() {
		return closes
	}
	if q.Ask.By.Key != "" {
		return f.At(q.Ask.By.Key)
	}
	y, m, d := q.Ask.By.On.Civil()
	return time.Date(y, m, d+1, 0, 0, 0, 0, f.Zone)
}

// Follows reports a question whose letters are taken after its stage has closed:
// they hold no send up.
func (f *Form) Follows(q *Question) bool {
	i, ok := f.index[q.Key]
	if !ok {
		return false
	}
	closes := f.StageWindow(f.sections[f.questions[i].section].def.Stage).Closes
	return f.Due(q, closes).After(closes)
}

// DueDay is the day by which a letter's age is judged: that of its own date, or
// that of the closing.
func (f *Form) DueDay(q *Question, closes time.Time) calendar.Date {
	due := f.Due(q, closes)
	if q != nil && q.Ask != nil && !q.Ask.By.Zero() && q.Ask.By.Key == "" {
		return q.Ask.By.On
	}
	return calendar.DateOf(due, f.Zone)
}

// Theirs is what a person answers themselves, as a form of its own; nil when
// nothing is asked beside the letter or the confirmation.
func (f *Form) Theirs(q Key) *Form { return f.theirs[q] }

// compileTheirs compiles what the people of a question answer themselves.
func (c *compiler) compileTheirs(q *Question) {
	if len(q.Columns) == 0 || !q.AsksPeople() {
		return
	}
	d := *c.f.Design
	d.Sections = []Section{{Key: "theirs", Label: q.Label, Questions: q.Columns}}
	d.Streams, d.Applicants, d.Awards, d.Gifts = nil, nil, nil, nil
	d.Figures, d.Rules, d.Fees, d.Letters, d.Criteria = nil, nil, nil, nil, nil
	d.Stages = []Stage{{Key: "theirs", Label: q.Label, Does: Apply, From: Opens, To: Closes}}
	d.Request, d.Listed, d.Bodies, d.Codes = "", Listing{}, nil, nil
	for i := range q.Columns {
		k := &q.Columns[i]
		info := KindOf(k.Kind)
		c.need(info.Keeps != AsFiles && info.Keeps != AsPeople && info.Keeps != InLines,
			"%s cannot be asked of somebody who answers by a link", info.Means)
	}
	f, faults := Draft(&d)
	for _, x := range faults {
		if strings.HasPrefix(x.Path, "sections/") {
			c.need(false, "%s", x.Error())
		}
	}
	if c.f.theirs == nil {
		c.f.theirs = map[Key]*Form{}
	}
	c.f.theirs[q.Key] = f
}

// Shown is one answer, or one file, that is part of what somebody confirms.
type Shown struct {
	Question Key    `json:"question"`
	Row      string `json:"row,omitempty"`
	Column   Key    `json:"column,omitempty"`
	Value    string `json:"value"`
}

// Confirmed is what a person of the question confirms as it stands: what it
// says, and the answers it shows, in their order.
func (f *Form) Confirmed(q *Question, filled *Filled) (wants string, shown []Shown) {
	if q.Ask == nil {
		return "", nil
	}
	for p, a := range filled.Answers {
		if slices.Contains(q.Ask.Shows, p.Question) && !a.Empty() {
			shown = append(shown, Shown{p.Question, p.Row, p.Column, string(a.Non) + a.Raw})
		}
	}
	for _, k := range q.Ask.Shows { // somebody in a picture lets that picture be shown, and no other
		for _, x := range filled.Files[k] {
			if x.State == slot.Ready {
				shown = append(shown, Shown{Question: k, Row: FileRow(x.ID), Value: x.Name})
			}
		}
	}
	slices.SortFunc(shown, func(a, b Shown) int {
		ka, kb := string(a.Question)+"|"+a.Row+"|"+string(a.Column), string(b.Question)+"|"+b.Row+"|"+string(b.Column)
		switch {
		case ka < kb:
			return -1
		case ka > kb:
			return 1
		}
		return 0
	})
	return q.Ask.Wants, shown
}

// Fingerprint is the SHA-256, in hexadecimal, of what a person of the question
// confirms as it stands.
func (f *Form) Fingerprint(q *Question, filled *Filled) string {
	wants, shown := f.Confirmed(q, filled)
	raw, err := json.Marshal(struct {
		Wants string  `json:"wants"`
		Shown []Shown `json:"shown"`
	}{wants, shown})
	if err != nil {
		panic(err) // texts always marshal
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:])
}

// AsksOthers reports a form for which people answer by links of their own.
func (f *Form) AsksOthers() bool {
	return slices.ContainsFunc(f.questions, func(q question) bool { return q.def.AsksPeople() })
}
