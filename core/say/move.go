package say

import (
	"ulvant/core/form"
	"ulvant/core/lifecycle"
)

// Mover is who must act, beside the shape that stands for them.
func Mover(m lifecycle.Move) string {
	switch m {
	case lifecycle.Applicant:
		return "applicant"
	case lifecycle.Third:
		return "referee"
	case lifecycle.Office:
		return "the office"
	case lifecycle.Reader:
		return "readers"
	}
	return "nobody"
}

// WhoseMove is who must act, in the middle of a sentence.
func WhoseMove(m lifecycle.Move) string {
	switch m {
	case lifecycle.Applicant, lifecycle.Third:
		return "the " + Mover(m)
	}
	return Mover(m)
}

// Letter is how far the letter of somebody asked is, in a list.
func Letter(s form.LetterState) string {
	switch s {
	case form.Uploaded:
		return "uploaded, not sent"
	case form.Accepted:
		return "said yes, writing"
	case form.Asked:
		return "asked, no answer"
	case form.Declined:
		return "cannot do it"
	case "":
		return "nobody named"
	}
	return string(s)
}
