package say

import (
	"strings"

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
	case form.CodeTooLong, form.CodeTooManyChars, form.CodeTooShort:
		return "Texts over their limit"
	case form.CodeTooLittle, form.CodeTooMuch:
		return "A sum or number outside its limits"
	case form.CodeTooEarly, form.CodeTooLate, form.CodeTooOld:
		return "A date outside its limits"
	case form.CodeBoxNumber:
		return "A box number for an address"
	case form.CodePart, form.CodePartUnreadable, form.CodeNotSure:
		return "An answer with a part missing"
	case form.CodeTooFewPicked,
		form.CodeTooManyPicked,
		form.CodePickedTwice,
		form.CodeNotApplied,
		form.CodeLessThanNone,
		form.CodeNotOffered,
		form.CodeTooManyTaken:
		return "Too few or too many picked"
	case form.CodeTooFewRows, form.CodeTooManyRows:
		return "Too few or too many rows in a table"
	case form.CodeBudgetLine, form.CodeBudgetOver, form.CodeBudgetPayer, form.CodeBudgetChoice, form.CodeBudgetDivide,
		form.CodeBudgetValue, form.CodeBudgetEarly, form.CodeBudgetHuge:
		return "Budget lines not finished"
	case form.CodeAidCeiling:
		return "Public aid above its ceiling"
	case form.CodeBudgetSupplier, form.CodeBudgetQuotes:
		return "Quotes missing in the budget"
	case form.CodeBudgetRequest, form.CodeBudgetLeast:
		return "Budget does not add up to the request"
	case form.CodeBudgetMatch, form.CodeBudgetMatchAsked:
		return "Too little paid by others"
	case form.CodeBudgetCap, form.CodeBudgetMost:
		return "Too much asked under one heading"
	case form.CodeFileDetail, form.CodeFileTick, form.CodeFileMade, form.CodeFileExcerpt,
		form.CodeFileWhole:
		return "Something to say beside a file"
	case form.CodePageRange, form.CodePageSlot:
		return "A page that is not in the file"
	case form.CodeFeeCode:
		return "A code that is not known"
	case form.CodeFile, form.CodeFileMissing, form.CodeFilesFew, form.CodeFilesMany, form.CodeFilesSize,
		form.CodeFileNeeds, form.CodeNotAccepted:
		return "A file missing or refused"
	case form.CodeRefereeBounced:
		return "A mail to a referee that came back"
	case form.CodeConfirmedOther:
		return "A confirmation to be given again"
	case form.CodeRefereeMissing, form.CodeRefereeToAsk, form.CodeRefereeNo:
		return "No referee asked"
	case form.CodeRefereeAsked, form.CodeRefereeWriting:
		return "The letter has not come"
	case form.CodeLetterNotSent:
		return "A letter uploaded but not sent"
	case form.CodeNotAgreed, form.CodeInitials, form.CodeNameDiffers:
		return "Declarations not signed"
	case form.CodeNoAward:
		return "No award that fits"
	case form.CodeNotAuthorised:
		return "A signer who is not authorised"
	case form.CodeNotEligible:
		return "A rule that is not met"
	}
	return string(c)
}

// RuleNames gives the label of every rule, and of those about files, ticks and papers.
func RuleNames(f *form.Form) map[form.Key]string {
	out := map[form.Key]string{"files-open": "Files can be opened", "body-known": "The organisation is known",
		form.ConnectedRule: "Nobody applies twice or pays themselves", form.AlikeRule: "The proposal is its own",
		form.RegisterRule: "The register knows the body"}
	for _, r := range f.Design.Rules {
		out[r.Key] = r.Label
	}
	for _, b := range f.Design.Bodies {
		out[form.TurnRule(b.Key)], out[form.TurnedRule(b.Key)] = "With: "+b.Label, "Reviewed by: "+b.Label
	}
	for _, s := range f.Design.Sections {
		for _, q := range s.Questions {
			out[form.TickRule(q.Key)] = "Ticked: " + q.Label
			if q.InkOf() != "" {
				out[form.TickRule(q.Key)] = "Signed in ink: " + q.Label
			}
			out[form.TemplateRule(q.Key)] = "The template: " + q.Label
			out[form.NamesRule(q.Key)] = "Names in files: " + q.Label
			out[form.PaperRule(q.Key)] = "On paper: " + q.Label
			out[form.LettersRule(q.Key)] = "Still to come: " + q.Label
			out[form.ProposalRule(q.Key)] = "Proposed for the list: " + q.Label
			out[form.FollowRule(q.Key)] = "To follow: " + q.Label
			out[form.DeclaredRuleKey(q.Key)] = "Declared elsewhere: " + q.Label
		}
	}
	return out
}

// Found is why a rule came out as it did, as the office reads it: a sentence
// that speaks to the applicant gives way to the rule itself, where it has one;
// what was looked up, and what somebody wrote, stays.
func Found(f *form.Form, rule form.Key, reason string) string {
	for _, r := range f.Design.Rules {
		if r.Key != rule || r.Says == "" {
			continue
		}
		for _, to := range []string{r.Yes, r.No, r.Look} {
			rest, ok := strings.CutPrefix(reason, to)
			switch {
			case !ok || to == "":
			case to == r.Yes:
				return r.Says + rest
			default: // it is not so, or nobody knows yet
				return "The rule: " + r.Says + rest
			}
		}
	}
	return reason
}

// Ticked asks a checker to confirm what an applicant ticked of a slot, or had signed.
func Ticked(t form.Tick) string {
	out := ""
	if len(t.Says) > 0 {
		out = "The applicant has ticked: “" + strings.Join(t.Says, "”, “") + "” "
	}
	if t.Ink != "" {
		out += "A page was to be printed and signed in ink: “" + t.Ink + "” "
	}
	return out + "Look at the files and confirm it."
}
