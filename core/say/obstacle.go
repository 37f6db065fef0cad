// Package say makes the sentences: what stands in an application's way, what a
// condition means, what an event was. Codes and figures come in, plain English
// with the number in it goes out, and nothing else in the program writes such
// a sentence; what is particular to a kind of question its own file says.
package say

import (
	"fmt"
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/slot"
	"ulvant/core/wordcount"
)

// over says a size and the limit that it is over, so that they differ.
func over(have, limit int64) string {
	if phrase.Bytes(have) == phrase.Bytes(limit) {
		return phrase.Bytes(limit) + " and " + phrase.Count(have-limit, "byte", "bytes") + ", the limit is " +
			phrase.Bytes(limit)
	}
	return phrase.Bytes(have) + ", the limit is " + phrase.Bytes(limit)
}

// NoRoom says that a quota is full.
func NoRoom(q slot.Quota) string {
	whose := map[string]string{"slot": "One question", "application": "One application", "person": "One person"}[q.Of]
	return whose + " may keep " + phrase.Bytes(q.Most) + " of files with us, and " + phrase.Bytes(q.Have) +
		" are there or on their way already. Take some out that are not needed. Nothing else is lost."
}

// Obstacle says what is in the way, shortly, for the list beside the
// application, and what would make it right.
func Obstacle(f *form.Form, o form.Obstacle) (what, remedy string) {
	label := string(o.Place.Question)
	q := f.Question(o.Place.Question)
	if q != nil {
		label = q.Label
	}
	if o.Place.Row != "" && q != nil {
		q, label = inRow(f, q, o, label)
	}
	head := strings.TrimSuffix(label, "?")
	amount := func(n int64) string { return quantity(f, q, n) }
	switch o.Code {
	case form.CodeBlank:
		if q != nil && o.Place.Row == "" {
			return q.Unanswered()
		}
		return "Not answered: " + label, "Answer it."
	case form.CodeUnreadable:
		return fmt.Sprintf("%s: “%s” cannot be read", head, o.Name), Form(q)
	case form.CodeTooLong:
		return fmt.Sprintf("%s is %s over", head, phrase.Count(o.Have-o.Limit, "word", "words")),
			fmt.Sprintf("It has %d words; up to %d are taken. Take out %s.", o.Have, o.Limit,
				phrase.Count(o.Have-o.Limit, "word", "words"))
	case form.CodeTooShort:
		return fmt.Sprintf("%s is %s short", head, phrase.Count(o.Limit-o.Have, "word",
			"words")), fmt.Sprintf("It has %d words; at least %d are wanted.", o.Have, o.Limit)
	case form.CodeTooManyChars:
		return fmt.Sprintf("%s is %s over", head, phrase.Count(o.Have-o.Limit, "character", "characters")),
			fmt.Sprintf("Up to %d characters are taken.", o.Limit)
	case form.CodeTooLittle:
		return fmt.Sprintf("%s: %s is less than the least, %s", head, amount(o.Have), amount(o.Limit)), "Make it " +
			amount(o.Limit) + " or more."
	case form.CodeTooMuch:
		return fmt.Sprintf("%s: %s is more than the most, %s", head, amount(o.Have), amount(o.Limit)), "Make it " +
			amount(o.Limit) + " or less."
	case form.CodeNotOffered:
		return o.Name + " is not offered to you", "Take it out."
	case form.CodeTooManyTaken:
		return fmt.Sprintf("%s: %d is more than can be taken", o.Name, o.Have), fmt.Sprintf("Take at most %d.", o.Limit)
	case form.CodeTooEarly:
		return fmt.Sprintf("%s: %s too early", head, phrase.Count(o.Have, "day", "days")), "Move it to " + o.Day.Words() +
			" or later."
	case form.CodeTooLate:
		return fmt.Sprintf("%s: %s too late", head, phrase.Count(o.Have, "day", "days")), "Move it to " + o.Day.Words() +
			" or earlier."
	case form.CodeTooOld:
		return fmt.Sprintf("%s: %s too old", head, phrase.Count(o.Have, "day",
				"days")), fmt.Sprintf("It may be at most %s old at the closing: of %s or later.",
				phrase.Count(o.Limit, "month", "months"), o.Day.Words())
	case form.CodeTooFewPicked:
		return fmt.Sprintf("%s: %d picked, at least %d are wanted", head, o.Have, o.Limit), "Pick " +
			strconv.FormatInt(o.Limit-o.Have, 10) + " more."
	case form.CodeTooManyPicked:
		return fmt.Sprintf("%s: %d picked, at most %d are taken", head, o.Have, o.Limit), "Take out " +
			strconv.FormatInt(o.Have-o.Limit, 10) + "."
	case form.CodeNotApplied:
		return fmt.Sprintf("%s: %s is not among the awards applied for", head,
			o.Name), "Apply for it too, or choose another for this place."
	case form.CodeLessThanNone:
		return fmt.Sprintf("%s: %d is less than none", o.Name, o.Have), "Take none, one or more."
	case form.CodePickedTwice:
		return fmt.Sprintf("%s: %s stands twice", head, o.Name), "Choose another for one of the two places."
	case form.CodeNotSure:
		marks := form.Sure(o.Detail).Marks()
		return fmt.Sprintf("%s: is it %s or %s?", head, marks[0], marks[1]), "Say which."
	case form.CodeTooFewRows:
		return fmt.Sprintf("%s has %s; at least %d are wanted", head, phrase.Count(o.Have, "row", "rows"), o.Limit), "Add " +
			strconv.FormatInt(o.Limit-o.Have, 10) + " more."
	case form.CodeTooManyRows:
		return fmt.Sprintf("%s has %s; at most %d are taken", head, phrase.Count(o.Have, "row", "rows"), o.Limit), "Empty " +
			strconv.FormatInt(o.Have-o.Limit, 10) + "."
	case form.CodePartUnreadable:
		return fmt.Sprintf("%s: “%s” cannot be read as %s", head, o.Detail, phrase.LowerInitial(o.Name)), "Write it again."
	case form.CodeBoxNumber:
		return fmt.Sprintf("%s: “%s” is a box number", head,
			o.Name), "Give the street or the name of the site, so that somebody could go there."
	case form.CodePart:
		return fmt.Sprintf("%s lacks: %s", head, o.Name), "Fill it in."
	case form.CodeBudgetLine, form.CodeBudgetChoice, form.CodeBudgetOver, form.CodeBudgetPayer, form.CodeBudgetDivide,
		form.CodeBudgetValue, form.CodeBudgetEarly, form.CodeBudgetSupplier, form.CodeBudgetQuotes:
		return budgetLine(f, o)
	case form.CodeBudgetHuge, form.CodeBudgetRequest, form.CodeBudgetMatch, form.CodeBudgetMatchAsked, form.CodeBudgetCap,
		form.CodeBudgetLeast, form.CodeBudgetMost:
		return budgetWhole(f, o)
	case form.CodeAidCeiling:
		return aidCeiling(f, o)
	case form.CodeFilesFew:
		return fmt.Sprintf("%s: %s, at least %d are wanted", head, phrase.Count(o.Have, "file", "files"),
			o.Limit), "Put in " + strconv.FormatInt(o.Limit-o.Have, 10) + " more."
	case form.CodeFilesMany:
		return fmt.Sprintf("%s: %s, at most %d are taken", head, phrase.Count(o.Have, "file", "files"),
			o.Limit), "Take out " + strconv.FormatInt(o.Have-o.Limit, 10) + "."
	case form.CodeFilesSize:
		return fmt.Sprintf("%s: %s", head, strings.Replace(over(o.Have, o.Limit), ", the", " together, the",
			1)), "Make some of them smaller."
	case form.CodeFileNeeds:
		return fmt.Sprintf("%s belongs to a file in “%s”, where there is none", o.Name, o.Detail), "Put that in too."
	case form.CodeFileDetail:
		return fmt.Sprintf("%s: say %s", o.Name, o.Detail), "Write it beside the file."
	case form.CodeFileExcerpt:
		return excerptFault(o)
	case form.CodeFileWhole:
		if o.Detail == "" {
			return fmt.Sprintf("%s runs %s, longer than the whole it belongs to (%s)", o.Name, phrase.Seconds(o.Have),
				phrase.Seconds(o.Limit)), "Cut it, or say that it belongs to another."
		}
		return fmt.Sprintf("%s: say which of “%s” it belongs to", o.Name, o.Detail), "Choose it beside the file."
	case form.CodeFileMade:
		return o.Name + " was made before " + o.Day.Words(), "Only work made on that day or later is taken."
	case form.CodeFileTick:
		return "To tick: " + o.Detail, "Look at your files, then tick it."
	case form.CodeNotAccepted:
		return head + " is not accepted: " + o.Name, "Take it out."
	case form.CodePageRange:
		return fmt.Sprintf("%s: page %d is not in %s, which has %d", head, o.Have, o.Name,
			o.Limit), "Open the file and look again."
	case form.CodePageSlot:
		return fmt.Sprintf("%s points into “%s”, where there is no file", head, o.Name), "Put the file in first."
	case form.CodeFeeCode:
		return "The code “" + o.Name + "” is not known", "Look at the letter it came in, or leave it out."
	case form.CodeFeeCodeOver:
		return "The code “" + o.Name + "” has run out", "Take it out, or ask whoever gave it to you."
	case form.CodeFeeCodeUsed:
		return "The code “" + o.Name + "” was used as often as it can be", "Take it out, or ask whoever gave it to you."
	case form.CodeFeeCodeTheirs:
		return "The code “" + o.Name + "” is for others",
			"It works for those on a list, by the mail address of whoever leads the application. Take it out."
	case form.CodeFileMissing:
		return "No file yet: " + label, "Put one in."
	case form.CodeFile:
		return FileFault(o)
	case form.CodeRefereeMissing:
		if q != nil && q.Confirms() {
			return phrase.Count(o.Limit-o.Have, "person", "people") + " to name who confirms: " +
				label, "Name them; they get a mail with a link of their own."
		}
		return phrase.Count(o.Limit-o.Have, "referee", "referees") + " to name: " +
			label, "Name somebody who can vouch for you, and ask them."
	case form.CodeRefereeToAsk:
		return o.Name + " has not been asked yet", "Check the address and ask them."
	case form.CodeRefereeAsked:
		return o.Name + " has not answered; asked on " + o.Day.Short(), "Remind them, or name somebody else."
	case form.CodeRefereeWriting:
		return o.Name + " has said yes; the letter has not come", "It may still come. You may remind them."
	case form.CodeRefereeNo:
		return o.Name + " cannot do it", "Name somebody else."
	case form.CodeRefereeBounced:
		return "The mail to " + o.Name + " came back", "Look at the address, and ask them again at the right one."
	case form.CodeConfirmedOther:
		return "What " + o.Name + " confirmed was changed since", "Ask them to confirm it as it is now, or change it back."
	case form.CodeLetterNotSent:
		return o.Name + " has a letter uploaded but not sent", "It counts only once they press Send. We remind them; so " +
			"may you."
	case form.CodeNotAgreed:
		return "To agree: " + label, "Read it and tick it."
	case form.CodeInitials:
		return fmt.Sprintf("“%s” are not the initials of %s", o.Detail, o.Name), "Type " + form.Initials(o.Name) +
			" if you agree."
	case form.CodeNoAward:
		return "None of the awards fits what you answered", "Choose those you want to be considered for, or look at your " +
			"answers again."
	case form.CodeNotAuthorised:
		return o.Name + " is not among those who may sign for you", "Choose one of them. Who may sign is said, and " +
			"confirmed, in the profile of your organisation."
	case form.CodeNameDiffers:
		return "The typed name is not the name on file", "Type it as on file: " + o.Name + "."
	case form.CodeNotEligible:
		return "This round cannot take it: " + o.Name, o.Detail
	}
	return string(o.Code) + ": " + label, ""
}

func quoted(s, none string) string {
	if s == "" {
		return none
	}
	return "“" + s + "”"
}

// inRow finds the column of an obstacle in a table, and names its row.
func inRow(f *form.Form, q *form.Question, o form.Obstacle, label string) (*form.Question, string) {
	c := f.Column(q.Key, o.Place.Column)
	if c == nil {
		return q, label
	}
	return c, c.Label + " in a row of “" + strings.TrimSuffix(label, "?") + "”"
}

// excerptFault says what is wrong with the part that is named of a recording.
func excerptFault(o form.Obstacle) (what, remedy string) {
	most := phrase.Seconds(o.Limit)
	switch slot.ExcerptFault(o.Detail) {
	case slot.ExcerptUnread:
		return "The excerpt of " + o.Name + " cannot be read", "Write minutes and seconds, such as 1:23."
	case slot.ExcerptCrossed:
		return "The excerpt of " + o.Name + " ends before it begins", "Change where it begins or ends."
	case slot.ExcerptBeyond:
		return "The excerpt of " + o.Name + " ends after the whole, which runs " + slot.Runs(float64(o.Have)),
			"Let it end sooner."
	case slot.ExcerptTooLong:
		return "The excerpt of " + o.Name + " is longer than " + most, "Let it begin later or end sooner."
	}
	return "No excerpt of " + o.Name + " is named", "Say where it begins and ends, at most " + most + " of it."
}

// FileState says how far a file in a slot is; untaken is one that the slot refuses.
func FileState(s slot.State, untaken bool, arrived, size int64) string {
	switch {
	case s == slot.Uploading && arrived > 0:
		return phrase.Bytes(arrived) + " of " + phrase.Bytes(size) +
			" are here; choose the same file once more and it goes on"
	case s == slot.Uploading:
		return "on its way"
	case s == slot.Inspecting:
		return "here whole, and being opened"
	case untaken:
		return "not taken"
	}
	return "in"
}

// points of tenths of a point: 9.5, 11.
func points(tenths int64) string {
	return strings.TrimSuffix(fmt.Sprintf("%d.%d", tenths/10, tenths%10), ".0")
}

// FileFault says what is wrong with a file.
func FileFault(o form.Obstacle) (what, remedy string) {
	switch slot.Fault(o.Detail) {
	case slot.TooMany:
		return fmt.Sprintf("%s is %d pages, the limit is %d", o.Name, o.Have, o.Limit), "Shorten it and put it in again."
	case slot.LargePage:
		return fmt.Sprintf("%s has a page of %d × %d mm, larger than is taken", o.Name, o.Have, o.Limit),
			"Save or print it on smaller pages and put it in again."
	case slot.TooLarge:
		return o.Name + " is " +
			over(o.Have, o.Limit), "Make it smaller, by saving its pictures at a lower quality, and put it in again."
	case slot.WrongKind:
		return o.Name + " is not of a kind that is taken here", "Save or export it as one of those named above."
	case slot.NoText:
		return o.Name + " holds pictures of pages, no text", "Save it from the program it was written in, instead of " +
			"scanning it."
	case slot.SmallType:
		return fmt.Sprintf("%s is set in type of %s points, at least %s are wanted", o.Name, points(o.Have), points(o.Limit)),
			"Set it in larger type and put it in again."
	case slot.TooSmall:
		return fmt.Sprintf("%s has %d pixels where %d are wanted", o.Name, o.Have, o.Limit), "Put in a larger picture."
	case slot.TooCoarse:
		return fmt.Sprintf("%s has %d dots per inch, at least %d are wanted", o.Name, o.Have,
			o.Limit), "Scan or export it finer."
	case slot.NoDots:
		return o.Name + " does not say how many dots per inch it has", fmt.Sprintf("Export it again with %d dots per inch.",
			o.Limit)
	case slot.NotGrey:
		return o.Name + " is in colour", "Put in a grey one."
	case slot.NotColour:
		return o.Name + " is grey", "Put in one in colour."
	case slot.TooLong:
		return fmt.Sprintf("%s runs %s, the limit is %s", o.Name, phrase.Seconds(o.Have), phrase.Seconds(o.Limit)), "Cut it."
	case slot.TooShort:
		return fmt.Sprintf("%s runs %s, at least %s is wanted", o.Name, phrase.Seconds(o.Have),
			phrase.Seconds(o.Limit)), "Put in a longer one."
	case slot.NotPDF:
		return o.Name + " is not a PDF", "Save or print it as PDF and put that in."
	case slot.Locked:
		return o.Name + " is locked with a password", "Save it without a password and put it in again."
	case slot.Empty:
		return o.Name + " is empty", "Choose the file again."
	case slot.Arriving:
		return fmt.Sprintf("%s is on its way: %s of %s are here", o.Name, phrase.Bytes(o.Have), phrase.Bytes(o.Limit)),
			"Stay on any page of this application until all of it has come; if it stands still, choose the file once more."
	case slot.Virus:
		return "a virus was found in " + o.Name,
			"Take it out, have the computer it comes from looked over, and put in a clean one."
	case slot.Unfinished:
		return o.Name + " never arrived whole", "Put it in again, or take it out."
	}
	remedy = "Print it to a new PDF and put that in."
	if !strings.HasSuffix(strings.ToLower(o.Name), ".pdf") {
		remedy = "Save or export it anew and put that in."
	}
	return o.Name + " could not be opened", remedy
}

// TooManyWords reports a text of more than most words.
func TooManyWords(text string, most int) bool { return wordcount.Words(text) > most }

// When reads a condition back, or "" when it always holds.
func When(c condition.Cond, names Names) string {
	if c.Always() {
		return ""
	}
	return condition.Sentence(c, names)
}
