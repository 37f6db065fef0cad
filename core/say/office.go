package say

import (
	"ulvant/core/form"
	"ulvant/core/lifecycle"
)

// StuckOn says whose move it is to take an obstacle out of the way.
func StuckOn(c form.Code) lifecycle.Move {
	switch c {
	case form.CodeRefereeAsked, form.CodeRefereeWriting, form.CodeLetterNotSent:
		return lifecycle.Third
	}
	return lifecycle.Applicant
}

// Stuck names an obstacle for lists that count it over many applications.
func Stuck(c form.Code) string {
	switch c {
	case form.CodeBlank:
		return "Questions not answered"
	case form.CodeUnreadable:
		return "Answers that cannot be read"
	case form.CodeTooLong, form.CodeTooManyChars:
		return "Texts over their limit"
	case form.CodeTooLittle, form.CodeTooMuch:
		return "A sum or number outside its limits"
	case form.CodeTooEarly, form.CodeTooLate:
		return "A date outside its limits"
	case form.CodeBoxNumber, form.CodeAddressPart:
		return "Address not whole, or a box number"
	case form.CodeBudgetEmpty:
		return "Budget not begun"
	case form.CodeBudgetLine, form.CodeBudgetOver, form.CodeBudgetPayer:
		return "Budget lines not finished"
	case form.CodeBudgetRequest:
		return "Budget does not add up to the request"
	case form.CodeBudgetMatch:
		return "Too little paid by others"
	case form.CodeFile, form.CodeFileMissing:
		return "A file missing or refused"
	case form.CodeRefereeMissing, form.CodeRefereeToAsk, form.CodeRefereeNo:
		return "No referee asked"
	case form.CodeRefereeAsked, form.CodeRefereeWriting:
		return "The letter has not come"
	case form.CodeLetterNotSent:
		return "A letter uploaded but not sent"
	case form.CodeNotAgreed, form.CodeNameDiffers:
		return "Declarations not signed"
	case form.CodeNotEligible:
		return "A rule that is not met"
	}
	return string(c)
}

// RuleNames gives the label of every rule, and of the one about files.
func RuleNames(f *form.Form) map[form.Key]string {
	out := map[form.Key]string{"files-open": "Files can be opened"}
	for _, r := range f.Design.Rules {
		out[r.Key] = r.Label
	}
	return out
}
