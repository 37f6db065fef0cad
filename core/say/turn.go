package say

import (
	"strconv"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/turn"
)

// BodyWord is what a body says of a case besides its yes or no.
type BodyWord struct {
	Points map[form.Key]bool // what it looked at: met or not
	Mark   *int              // nil: none was asked, or none is given yet
	Note   string
}

// Turn says how a body’s turn with a case stands, for the office. due is zero for
// no day.
func Turn(f *form.Form, body string, s turn.State, due time.Time, w BodyWord) string {
	label := f.Design.BodyLabel(body)
	out := ""
	switch s {
	case turn.Waits:
		return label + " comes after others, and has not seen it yet."
	case turn.With:
		out = label + " has it"
		if !due.IsZero() {
			out += ", to answer by " + calendar.WallOf(due, f.Zone).Words()
		}
		return out + "."
	case turn.Yes:
		out = label + " says yes."
	case turn.No, turn.Over: // said alike, so that what was settled of it stands
		out = label + " says no. Go on over it, or find that it is not met."
	case turn.Back:
		out = label + " sends it back to you. Answer, and it is with them again."
	}
	var met, not []string
	for _, b := range f.Design.Bodies {
		if string(b.Key) != body {
			continue
		}
		if w.Mark != nil {
			out += " Its mark is " + strconv.Itoa(*w.Mark) + " of " + strconv.Itoa(b.Marks) + "."
		}
		for _, p := range b.Points {
			switch is, ok := w.Points[p.Key]; {
			case ok && is:
				met = append(met, p.Label)
			case ok:
				not = append(not, p.Label)
			}
		}
	}
	if met != nil {
		out += " Met: " + strings.Join(met, "; ") + "."
	}
	if not != nil {
		out += " Not met: " + strings.Join(not, "; ") + "."
	}
	if w.Note != "" {
		out += " They write: “" + w.Note + "”"
	}
	return out
}

// TurnToApplicant says where a case is among the bodies that review it, to whoever
// applied; "" while others come before.
func TurnToApplicant(f *form.Form, body string, s turn.State, due time.Time) string {
	label := f.Design.BodyLabel(body)
	switch s {
	case turn.With:
		out := "It is with " + label
		if !due.IsZero() {
			out += ", who look at it by " + calendar.WallOf(due, f.Zone).Words()
		}
		return out + "."
	case turn.Waits:
		return label + " will look at it after that."
	case turn.Yes:
		return label + " has looked at it."
	}
	return label + " has looked at it; the office goes on with it."
}

// TurnMail tells somebody of a body what is with them: so many new cases, so many
// that are due soon.
func TurnMail(f *form.Form, body, round, name string, fresh, soon int, due *time.Time) (subject, text string) {
	n := phrase.Count(int64(fresh), "application is", "applications are")
	subject = phrase.Initial(n) + " with you to review, " + round
	text = "Dear " + name + ",\n\n"
	if fresh > 0 {
		text += n + " with " + f.Design.BodyLabel(body) + " now, to be reviewed in " + round + ".\n"
	}
	if soon > 0 {
		until := phrase.Count(int64(soon), "application", "applications")
		subject = until + " to review soon, " + round
		text += phrase.Initial(until) + " to be reviewed"
		if due != nil {
			text += " by " + calendar.WallOf(*due, f.Zone).Words()
		}
		text += " at the latest.\n"
	}
	return subject, text + "\nSign in to find them on your day. You see the cases that are yours and no others.\n"
}
