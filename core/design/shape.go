package design

import (
	"slices"

	"ulvant/core/form"
	"ulvant/core/slot"
)

// As says how a member of a thing is set.
type As string

// The ways a member is set.
const (
	Line      As = "line"      // one line of text
	Lines     As = "lines"     // several lines of text, one text
	List      As = "list"      // a text on each line: steps, things to tick
	Whole     As = "whole"     // a whole number
	Amount    As = "amount"    // a sum in the round's currency
	Tick      As = "tick"      // yes or no
	Choose    As = "choose"    // one of Options, or of what the design has
	Many      As = "many"      // several of Options, or of what the design has
	Condition As = "condition" //
	Group     As = "group"     // an object of Sub
	CaseSet   As = "cases"     // objects of Sub by condition, and one else
	Scaled    As = "scaled"    // a number at the question's scale
	Megabytes As = "megabytes" // bytes, set in MB
	Moment    As = "moment"    // a date and time
	DayAs     As = "day"       // a fixed date, or one of the calendar
	Date      As = "date"      // a fixed date
	Options   As = "options"   // key and label on each line
	Pairs     As = "pairs"     // word and meaning on each line
	Cells     As = "cells"     // a table, as CSV
	Items     As = "items"     // a list, as CSV
	Caps      As = "caps"      // heading and percent on each line, and of what
	Bases     As = "bases"     // heading and its caps on each line
	Rises     As = "rises"     // moment of the calendar and a sum on each line
	Backs     As = "backs"     // moment of the calendar and percent on each line
	Rate      As = "rate"      // in hundredths of a percent
	Refs      As = "refs"      // what a figure reads
	Columns   As = "columns"   // questions within a question
)

// Member of a thing in a design, as an officer sets it.
type Member struct {
	Name  string // in the document
	Label string
	Help  string
	As    As
	From  string // Choose: what of the design is chosen from: moments, stages, lists, tables, questions, slots, budgets …
	Words []form.Option
	Sub   []Member // Group, CaseSet
	// Seldom is what few rounds set; a page may fold it away while it is not.
	Seldom bool
	// NotYet says what does not run yet of it: it is kept and shown, and nothing
	// obeys it. "" for what runs. A test holds it to the truth.
	NotYet string
	// NotYetFor are the words of Words that do not run yet, and why.
	NotYetFor map[string]string
}

// Thing is a kind of thing in a design: what it is called, in which list it
// stands, and what can be set of it.
type Thing struct {
	Name    string // question
	List    string // the last step of the path to its list: questions
	Title   string // the member that names it: label
	Members []Member
	NotYet  string // as of a member, for the whole thing
}

func words(pairs ...string) []form.Option {
	var out []form.Option
	for i := 0; i+1 < len(pairs); i += 2 {
		out = append(out, form.Option{Key: form.Key(pairs[i]), Label: pairs[i+1]})
	}
	return out
}

var label = Member{Name: "label", Label: "Label", As: Line}

// Head is the round itself.
var Head = Thing{Name: "round", Title: "name", Members: []Member{
	{Name: "name", Label: "Name of the round", As: Line},
	{Name: "programme", Label: "Programme it belongs to", As: Line},
	{Name: "prefix", Label: "Letters before reference numbers", As: Line, Help: "Two to six capital letters."},
	{Name: "about", Label: "What it is for, in two sentences", As: Lines},
	{Name: "gives", Label: "What is given", As: Lines},
	{Name: "contact", Label: "Mail address for questions", As: Line},
	{Name: "currency", Label: "Currency", As: Line, Help: "Such as EUR."},
	{Name: "fund", Label: "Fund", As: Amount},
	{Name: "zone", Label: "Time zone of all times here", As: Line, Help: "Such as Europe/Dublin."},
	{Name: "ready", Label: "What else to have ready", As: List,
		Help: "A line each; the rest is worked out from the questions."},
	{Name: "request", Label: "Question that says what is asked of the fund", As: Choose, From: "sums"},
	{Name: "listed", Label: "Choice that lists show in a column", As: Group,
		Sub: []Member{{Name: "question", Label: "Question", As: Choose, From: "choices"},
			{Name: "heading", Label: "Heading of its column", As: Line}}},
	{Name: "password", Label: "Sending asks for the password again", As: Tick},
	{Name: "holdMinutes", Label: "Letters wait so many minutes and can be stopped", As: Whole},
}}

// Assessment is how the round is read and marked, apart from its criteria.
var Assessment = Thing{Name: "assessment", Title: "name", Members: []Member{
	{Name: "readersEach", Label: "Readers for each application", As: Whole},
	{Name: "field", Label: "Question that tells the field", As: Choose, From: "choices",
		Help: "Readers who know the field are found by it."},
	{Name: "language", Label: "Question that tells the language", As: Choose, From: "choices",
		Help: "Whoever does not read the language is not given the case."},
	{Name: "readerWord", Label: "What readers are called here", As: Choose,
		Words: words("", "reader", "juror", "juror", "assessor", "assessor")},
	{Name: "control", Label: "Percent of cases that one reader more marks, as a control", As: Whole,
		Help: "Drawn by lot; no reader can tell which. How far they lie apart stands beside the marks."},
	{Name: "trainFirst", Label: "Readers mark a sample case before they are given any", As: Tick,
		Help: "The sample is chosen under Reading."},
	{Name: "useful", Label: "Question that tells the least sum that is of use", As: Choose, From: "sums",
		Help: "A part of what is asked is offered down to it; without it the panel says how far a part may go down."},
	{Name: "score", Label: "What the order goes by", As: Choose,
		Words: words("", "the mean of the marks", string(form.ByCalibrated), "marks brought to one scale")},
	{Name: "tie", Label: "Equal scores are settled by", As: Choose, From: "ties", Help: "Nothing chosen: by the panel."},
	{Name: "notes", Label: "Readers’ notes for applicants go", As: Choose,
		Words: words("", "to nobody", string(form.NotesDeclined), "to those who are not awarded", string(form.NotesAll),
			"to everybody"),
		Help: "With the letter of the decision, without the readers’ names; where {{notes}} stands in it, else at its end."},
	{Name: "notesOn", Label: "The notes go out by themselves on", As: Choose, From: "moments",
		Help: "Nothing chosen: with the letter. A letter that is added as “Readers’ notes” gives them words of their own."},
	{Name: "moreThanAsked", Label: "The panel may award more than was asked", As: Tick},
	{Name: "hideNames", Label: "Names are hidden from readers", As: Tick},
	{Name: "overall", Label: "Overall judgement beside the criteria", As: List,
		Help: "A step on each line, the lowest first; none for no judgement."},
}}

// Paying is how the fees of a round are paid.
var Paying = Thing{Name: "payment", Title: "name", Members: []Member{
	{Name: "payment", Label: "Paying", As: Group, Sub: []Member{
		{Name: "grace", Label: "Minutes after closing within which a payment begun before it still counts", As: Whole},
		{Name: "back", Label: "Given back to whoever withdraws", As: Backs,
			Help: "On each line a date of the calendar, and how much of what was paid is given back until then: closes = 100"},
		{Name: "second", Label: "What the office gives back needs a second person above", As: Amount,
			Help: "Always, when nothing stands here."},
		{Name: "invoice", Label: "One may ask for an invoice, and is in at once", As: Tick},
		{Name: "invoiceDays", Label: "Days within which an invoice is paid", As: Whole},
		{Name: "account", Label: "Into which account invoices are paid, as it stands on them", As: Line}}},
}}

// Heads are the things that stand in no list.
var Heads = []Thing{Head, Assessment, Paying, Placing, Vote, Offering}

// Things are all kinds of things that stand in lists.
var Things = []Thing{
	{"date", "calendar", "label", []Member{{Name: "label", Label: "What it is, as in a sentence", As: Line,
		Help: "“the closing”"}, {Name: "at", Label: "Date and time", As: Moment},
		{Name: "reminds", Label: "Those with drafts are reminded then, with what is missing in their own case",
			As: Tick}}, ""},
	{"stage", "stages", "label", []Member{label,
		{Name: "does", Label: "What happens in it", As: Choose,
			Words: words("apply", "people apply", "check", "the office checks", "read", "readers mark", "interview",
				"people are met", "vote", "the public votes", "decide", "the panel decides")},
		{Name: "from", Label: "From", As: Choose, From: "moments"}, {Name: "to", Label: "To", As: Choose, From: "moments"},
		{Name: "invited", Label: "By invitation only; it has no public page", As: Tick}}, ""},
	{"stream", "streams", "label", []Member{label, {Name: "about", Label: "About", As: Lines},
		{Name: "fund", Label: "Its part of the fund", As: Amount,
			Help: "It is given from this alone, and the others from what is left of the round’s fund."}}, ""},
	{"kind of applicant", "applicants", "label", []Member{label}, ""},
	{"gift", "gifts", "label", []Member{label,
		{Name: "what", Label: "What it is", As: Choose, Words: words("money", "money of another kind", "goods", "goods",
			"place", "a place", "admission", "admission to a scheme")},
		{Name: "value", Label: "What one is worth", As: Amount,
			Help: "What has a worth is counted in pieces; money of another kind has none."},
		{Name: "about", Label: "About", As: Lines},
		{Name: "stock", Label: "How many pieces there are", As: Whole, Help: "Nothing when nothing bounds it."},
		{Name: "fund", Label: "How much money of it there is", As: Amount, Help: "Nothing when nothing bounds it."},
		{Name: "least", Label: "Least that can be asked for", As: Amount}, {Name: "most",
			Label: "Most that can be asked for", As: Amount},
		{Name: "request", Label: "Question that says how much is asked", As: Choose, From: "counts",
			Help: "Of money; or a number of pieces, of what stands in no budget."}}, ""},
	{"award", "awards", "label", []Member{label, {Name: "about", Label: "About", As: Lines},
		{Name: "purse", Label: "Purse, for each place", As: Amount},
		{Name: "least", Label: "Least that one place gives", As: Amount,
			Help: "Where its sum is a range; nothing for exactly the purse."},
		{Name: "places", Label: "Places", As: Whole},
		{Name: "donor", Label: "Who gives it", As: Line,
			Help: "Stands on its page and in the letter of whoever is given it; who gives it sees it by a role of their own."},
		{Name: "led", Label: "Led by", As: Choose, Words: words("", "need and merit alike", "need", "need", "merit",
			"merit")},
		{Name: "byNeed", Label: "Percent of its worth that goes by need", As: Whole,
			Help: "The rest goes by merit; nothing for what it is led by."},
		{Name: "needBy", Label: "What says need for this award", As: Choose, From: "numeric",
			Help: "Nothing for what says it for all."},
		{Name: "meritBy", Label: "What merit goes by for this award", As: Choose, From: "numeric",
			Help: "Nothing for what it goes by for all."},
		{Name: "leastMerit", Label: "Least merit, of 100", As: Whole},
		{Name: "match", Label: "Who meets it", As: Condition,
			Help: "Everybody who may apply, unless a condition says otherwise."},
		{Name: "wordsIn", Label: "Answer in which words are looked for", As: Choose, From: "written"},
		{Name: "words", Label: "Words, one of which must stand there", As: List,
			Help: "A word or phrase on each line; other forms of it and near spellings are found too."},
		{Name: "look", Label: "Words alone never meet it: somebody says whether they do", As: Tick},
		{Name: "first", Label: "Who comes before all others", As: Condition,
			Help: "Such as those who held it last year; nobody, unless a condition says so."},
		{Name: "apart", Label: "Of all awards with this word, one each", As: Line,
			Help: "Such as “merit”: whoever has one of them has no other."},
		{Name: "public", Label: "Stands in the public catalogue", As: Tick}}, ""},
	{"list", "lists", "label", []Member{label, {Name: "version", Label: "Version", As: Line},
		{Name: "day", Label: "Day of the version", As: Date},
		{Name: "prefix", Label: "A code stands for everything that begins with it, as in postcodes", As: Tick},
		{Name: "items", Label: "Items, as CSV: code, label", As: Items}}, ""},
	{"table", "tables", "label", []Member{label, {Name: "rows", Label: "Rows, as CSV with a heading line", As: Cells,
		Help: "The first column names the row. A column whose cells are all numbers is one of numbers."}}, ""},
	{"figure", "figures", "label", []Member{label,
		{Name: "op", Label: "How it is worked out", As: Choose,
			Words: words("sum", "sum", "difference", "the first less the others", "share", "share of the first in the second",
				"age", "years from the first date to the second",
				"months", "months from the first date to the second", "count", "count of the rows that fit, or of the answers "+
					"that are yes", "any row", "whether any row fits", "every row", "whether every row fits",
				"least", "the least", "most", "the most", "step", "step of a table", "part",
				"so many percent of the first")},
		{Name: "percent", Label: "How many percent", As: Whole},
		{Name: "of", Label: "What it reads", As: Refs},
		{Name: "where", Label: "Which rows count", As: Condition, Help: "All of them, unless a condition says otherwise."},
		{Name: "table", Label: "Table of its steps", As: Choose, From: "tables"},
		{Name: "rounding", Label: "Rounding to a step", As: Choose, Words: roundings}}, ""},
	{"rule", "rules", "label", []Member{label,
		{Name: "when", Label: "Worked when", As: Condition, Help: "Always, unless a condition says otherwise."},
		{Name: "holds", Label: "Met when", As: Condition},
		{Name: "says", Label: "The rule as one sentence", As: Line,
			Help: "Of anybody, such as “The site lies in one of the five districts.” It stands under “Who may apply” and on the office’s pages."},
		{Name: "yes", Label: "Sentence when it is met", As: Line},
		{Name: "no", Label: "Sentence when it is not: what would make it right", As: Line},
		{Name: "look", Label: "Sentence when a person must look", As: Line},
		{Name: "person", Label: "When it is not met, a person looks instead of refusing", As: Tick}}, ""},
	{"section", "sections", "label", []Member{label, {Name: "help", Label: "Help", As: Lines},
		{Name: "stage", Label: "Asked in the stage", As: Choose, From: "sectionStages"},
		{Name: "again", Label: "Asked again in the stages", As: Many, From: "applyStages",
			Help: "It starts from what was answered before. Statements, signatures and letters are given anew."},
		{Name: "asked", Label: "Asked when", As: Condition}}, ""},
	{"question", "questions", "label", nil, ""},
	{"fee", "fees", "label", []Member{label,
		{Name: "what", Label: "What it is", As: Choose, Words: words("entry", "the entry itself", "extra", "an extra",
			"thing", "something bought", "bundle", "a bundle")},
		{Name: "offered", Label: "Offered when", As: Condition}, {Name: "price", Label: "Price", As: CaseSet,
			Sub: []Member{{Name: "amount", Label: "Price", As: Amount},
				{Name: "later", Label: "From a date on", As: Rises,
					Help: "On each line a date of the calendar and what it costs from that second on: early-until = 90"}}},
		{Name: "most", Label: "How many one may take", As: Whole},
		{Name: "of", Label: "What is in the bundle", As: Many, From: "fees",
			Help: "Whoever takes all of them pays the bundle’s price instead, if it is less; nothing needs to be ticked."}}, ""},
	{"code", "codes", "code", []Member{{Name: "code", Label: "Code, as it is typed", As: Line},
		{Name: "percent", Label: "Takes off, in percent", As: Whole}, {Name: "off", Label: "Takes off, in money",
			As: Amount}, {Name: "until", Label: "Until the end of", As: Date},
		{Name: "uses", Label: "For how many applications it can be used", As: Whole,
			Help: "Any number, unless a number stands here."},
		{Name: "members", Label: "For whom alone", As: List,
			Help: "Mail addresses, one on each line, of those who lead an application; anybody, when it is empty."}}, ""},
	{"criterion", "criteria", "label", []Member{label, {Name: "weight", Label: "Weight, in percent", As: Whole},
		{Name: "applies", Label: "Applies when", As: Condition},
		{Name: "steps", Label: "Described steps, the lowest first", As: List,
			Help: "A step on each line; they are the marks 0, 1, 2 …"},
		{Name: "passPoints", Label: "Pass points: met or not met", As: Options},
		{Name: "at", Label: "Marked at the interview", As: Choose, From: "interviews",
			Help: "By whoever is there, after it. Nothing chosen: by the readers."}}, ""},
	{"body", "bodies", "label", []Member{label, {Name: "sees", Label: "Sees cases when", As: Condition},
		{Name: "by", Label: "Has reviewed by", As: Choose,
			From: "moments", Help: "Its people are reminded two working days before."},
		{Name: "points", Label: "What it looks at", As: Options, Help: "One on each line; each is met or not met."},
		{Name: "marks", Label: "Gives a mark from 0 to", As: Whole, Help: "With its yes or no; empty for none."}}, ""},
	{"letter", "letters", "subject", []Member{{Name: "subject", Label: "Subject", As: Line},
		{Name: "body", Label: "Text", As: Lines,
			Help: "Fields stand in double braces: {{name}}, {{title}}, {{ref}}, {{round}}, {{amount}}, {{asked}}, {{reasons}}, {{awards}}, {{place}}, {{answer-on}}, {{office}}; in an invitation {{stage}} and {{closes}}."},
		{Name: "of", Label: "Goes out in the place of", As: Choose, From: "letters",
			Help: "Nothing for a letter that goes out by itself."},
		{Name: "when", Label: "To whom it does", As: Condition,
			Help: "Such as those of a stream, or who write in a language."},
		{Name: "award", Label: "To those alone who are given the award", As: Choose, From: "awards"}}, ""},
}

var roundings = words("", "", string(form.Nearest), string(form.Nearest), string(form.NextUp), string(form.NextUp),
	string(form.NextDown), string(form.NextDown))

// ThingIn finds the kind of thing that stands in a list, by the list's last step.
func ThingIn(list string) (Thing, bool) {
	for _, t := range Things {
		if t.List == list {
			return t, true
		}
	}
	return Thing{}, false
}

// QuestionMembers are what can be set of a question: what every kind has, and
// what only its kind has.
func QuestionMembers(k form.Kind, column bool) []Member {
	out := questionMembers(k, column)
	fold(out)
	return out
}

// seldom are the members of questions and their limits that few rounds set.
var seldom = map[string]bool{"nonAnswers": true, "followBy": true, "sure": true, "example": true, "terms": true,
	"purpose": true, "profile": true, "copyOf": true, "region": true, "shared": true, "media": true,
	"leastWords": true, "characters": true, "monthsOld": true, "wish": true, "filesLeast": true, "sizeAll": true,
	"titleApart": true, "pageSize": true, "textLeast": true, "typeLeast": true, "widthLeast": true, "heightLeast": true,
	"dpiLeast": true,
	"colour":   true, "secondsLeast": true, "secondsMost": true, "excerptMost": true, "madeSince": true, "details": true,
	"ticks": true, "paper": true,
	"needs": true, "same": true, "use": true, "after": true, "sight": true, "contact": true, "reminders": true,
	"enough": true,
	"shows":  true, "waits": true}

func fold(list []Member) {
	for i := range list {
		list[i].Seldom = seldom[list[i].Name]
		list[i].Sub = slices.Clone(list[i].Sub)
		fold(list[i].Sub)
	}
}

func questionMembers(k form.Kind, column bool) []Member {
	info := form.KindOf(k)
	out := []Member{label, {Name: "help", Label: "Help", As: Lines},
		{Name: "asked", Label: "Asked when", As: Condition,
			Help: "Always, unless a condition says otherwise. An answer no longer asked is set aside, not deleted."},
		{Name: "blank", Label: "Left empty", As: Choose, Words: words("required", "it must be answered", "means no",
			"may be left; conditions read it as no", "means unknown", "may be left; conditions read it as not known")},
		{Name: "must", Label: "Must be answered all the same when", As: Condition, Help: "Only for what may be left."}}
	for _, m := range info.Members {
		if special, ok := specials[m]; ok {
			out = append(out, special)
		} else if special, ok := ofMoney[m]; ok {
			out = append(out, special)
		}
	}
	if len(info.Limits) > 0 {
		m := Member{Name: "limits", Label: "Limits", As: CaseSet}
		for _, l := range info.Limits {
			sub := limitMembers[l]
			if sub.As == Scaled && info.Measure == form.Sums {
				sub.As = Amount
			}
			m.Sub = append(m.Sub, sub)
		}
		out = append(out, m)
	}
	if column {
		return append(out, Member{Name: "nonAnswers", Label: "Instead of an answer", As: Many, Words: nonAnswers()})
	}
	return append(out,
		Member{Name: "nonAnswers", Label: "Instead of an answer one may say", As: Many, Words: nonAnswers()},
		Member{Name: "followBy", Label: "What is to follow must have come by", As: DayAs},
		Member{Name: "sure", Label: "Ask how sure the answer is", As: Choose,
			Words: words("", "no", string(form.Estimated), "estimated or actual", string(form.Expected), "known or expected")},
		Member{Name: "example", Label: "An example answer", As: Lines},
		Member{Name: "terms", Label: "Terms explained at the word", As: Pairs, Help: "On each line: word = what it means."},
		Member{Name: "nature", Label: "Fact or choice", As: Choose,
			Words: words("fact", "a fact: true of the applicant whatever they wish", "choice", "a choice: theirs to make")},
		Member{Name: "seen", Label: "Who sees it", As: Choose,
			Words: words("readers", "readers", "public", "readers, and everybody if it is awarded", "office",
				"the office alone"),
			NotYetFor: map[string]string{"public": "awards are not published from here yet; until then readers see it"}},
		Member{Name: "purpose", Label: "What it counts for", As: Choose,
			Words: words("", "judging", "matching", "matching only: used without being shown", "reports", "reports", "survey",
				"a survey kept apart"),
			NotYetFor: map[string]string{"matching": "readers do not see it, and nothing is matched by it yet",
				"reports": "readers do not see it, and no report is made of it yet"}})
}

func nonAnswers() []form.Option {
	var out []form.Option
	for _, n := range form.NonAnswers {
		out = append(out, form.Option{Key: form.Key(n), Label: string(n)})
	}
	return out
}

// specials are the members that only some kinds have.
var specials = map[string]Member{
	"options": {Name: "options", Label: "Options", As: Options,
		Help: "One on each line. What stands before an option’s own line keeps its key; a new line is a new option."},
	"scale": {Name: "scale", Label: "Decimals", As: Whole},
	"unit":  {Name: "unit", Label: "Unit", As: Line},
	"list":  {Name: "list", Label: "Picked from the list", As: Choose, From: "lists"},
	"proposals": {Name: "proposals", Label: "Applicants may propose others", As: Tick,
		Help: "The office takes them into the list for everybody, for one application, or not, with a reason."},
	"table":    {Name: "table", Label: "Table the office keeps", As: Choose, From: "tables"},
	"rounding": {Name: "rounding", Label: "Rounding", As: Choose, Words: roundings},
	"scheme":   {Name: "scheme", Label: "Which number", As: Choose, From: "schemes"},
	"region": {Name: "region", Label: "Country of numbers typed without one", As: Line,
		Help: "Two letters, such as IE."},
	"copyOf": {Name: "copyOf", Label: "May be copied from", As: Choose, From: "addresses"},
	"profile": {Name: "profile", Label: "Filled from the applicant’s profile", As: Choose,
		Words: words("", "no", "name", "its name", "number", "its registered number", "phone", "its phone number", "mail",
			"the address of its first contact", "address", "where its letters go", "born", "their date of birth", "sponsor",
			"the sponsoring body that holds the money")},
	"every":    {Name: "every", Label: "One may ask to be considered for every award that fits", As: Tick},
	"initials": {Name: "initials", Label: "Agreed to by typing one’s initials instead of a tick", As: Tick},
	"parties": {Name: "parties", Label: "Whom its rows name", As: Choose,
		Words: words("", "nobody in particular", "people", "people of the applicant: directors, members, partners", "paid",
			"whoever is to be paid: suppliers, contractors"),
		Help: "They are held against readers, the office and other applications, so that who belongs together is found. The first text of a row is the name."},
	"shared":  {Name: "shared", Label: "A shared mailbox will do", As: Tick},
	"media":   {Name: "media", Label: "A film or sound may stand in for the text", As: Tick},
	"request": {Name: "request", Label: "Must add up to", As: Choose, From: "sums"},
	"slot":    {Name: "slot", Label: "The file slot it points into", As: Choose, From: "slots"},
	"columns": {Name: "columns", Label: "Columns", As: Columns},
	"ask":     {Name: "ask", Label: "What they are asked", As: Group, Sub: askMembers},
	"theirs":  {Name: "columns", Label: "Questions that they answer themselves", As: Columns},
}

// askMembers are what is set of somebody who answers by a link.
var askMembers = []Member{
	{Name: "who", Label: "Which kind of person", As: Line, Help: "Such as: academic, or of your choice."},
	{Name: "wants", Label: "What the letter should say, or what is confirmed", As: Lines},
	{Name: "use", Label: "What happens with it", As: Lines,
		Help: "Told to them. Such as: The panel reads it beside the application."},
	{Name: "after", Label: "What they hear or see afterwards", As: Lines},
	{Name: "letterMonths", Label: "A letter is at most so many months old", As: Whole},
	{Name: "yearsLeast", Label: "It covers at least so many years", As: Whole},
	{Name: "by", Label: "Taken until", As: DayAs,
		Help: "Until the application closes, unless a date of its own is given. After the closing it holds no send up."},
	{Name: "waits", Label: "A case whose letters may come after the closing waits for them", As: Tick},
	{Name: "sight", Label: "Whether the applicant may read it", As: Choose, Words: words("", "never", "chosen",
		"the applicant keeps that right or gives it up", "open", "yes, once it is sent")},
	{Name: "contact", Label: "The applicant says whether the office may get in touch with them", As: Tick},
	{Name: "reminders", Label: "Most reminders that one person gets", As: Whole,
		Help: "Four, unless another number is given."},
	{Name: "enough", Label: "So many of those named are enough", As: Whole,
		Help: "All of them, unless a number is given."},
	{Name: "shows", Label: "Answers and files that are part of what is confirmed", As: Many, From: "confirmed",
		Help: "Whoever confirms sees them. If one is changed afterwards, it must be confirmed again."},
	{Name: "paper", Label: "May also be done on paper", As: Tick},
}

// limitMembers are the limits, by their names in the document.
var limitMembers = map[string]Member{
	"words":        {Name: "words", Label: "At most so many words", As: Whole},
	"leastWords":   {Name: "leastWords", Label: "At least so many words", As: Whole},
	"characters":   {Name: "characters", Label: "At most so many characters", As: Whole},
	"least":        {Name: "least", Label: "Least", As: Scaled},
	"most":         {Name: "most", Label: "Most", As: Scaled},
	"notBefore":    {Name: "notBefore", Label: "Not before", As: DayAs},
	"notAfter":     {Name: "notAfter", Label: "Not after", As: DayAs},
	"monthsOld":    {Name: "monthsOld", Label: "At most so many months before the closing", As: Whole},
	"pickLeast":    {Name: "pickLeast", Label: "Pick at least", As: Whole},
	"pickMost":     {Name: "pickMost", Label: "Pick at most", As: Whole},
	"rowsLeast":    {Name: "rowsLeast", Label: "At least so many rows", As: Whole},
	"rowsMost":     {Name: "rowsMost", Label: "At most so many rows", As: Whole},
	"matchPercent": {Name: "matchPercent", Label: "Others pay at least, in percent of the cost", As: Whole},
	"matchOfAsked": {Name: "matchOfAsked", Label: "Others pay at least, in percent of what is asked", As: Whole},
	"inKindMost":   {Name: "inKindMost", Label: "In kind counts up to, in percent of the cost", As: Whole},
	"caps": {Name: "caps", Label: "Headings that may not exceed a share", As: Caps,
		Help: "On each line: heading = percent of what is asked; or heading = percent of cost, of the cost with indirect costs, or of direct, without."},
	"referees": {Name: "referees", Label: "How many are asked", As: Whole},
	"slot": {Name: "slot", Label: "Files", As: Group, Sub: []Member{
		{Name: "wish", Label: "Wanted", As: Choose, Words: words("", "as the question says", "not accepted", "not accepted",
			"better not", "better not")},
		{Name: "kinds", Label: "Kinds of file", As: Many, Words: slotKinds(), Help: "PDF alone when none is ticked."},
		{Name: "filesLeast", Label: "At least so many files", As: Whole}, {Name: "filesMost", Label: "At most so many files",
			As: Whole, Help: "One, unless set."},
		{Name: "sizeMost", Label: "Size of each, at most MB", As: Megabytes}, {Name: "sizeAll",
			Label: "Size in all, at most MB", As: Megabytes},
		{Name: "pagesMost", Label: "At most so many pages", As: Whole}, {Name: "titleApart",
			Label: "A title page does not count", As: Tick},
		{Name: "pageSize", Label: "Pages no larger than", As: Choose,
			Words: words("", "any", "A5", "A5", "A4", "A4", "A3", "A3", "Letter", "US Letter")},
		{Name: "textLeast", Label: "Must hold text, not scans", As: Tick},
		{Name: "typeLeast", Label: "Set in type of at least so many points", As: Whole,
			Help: "What at least a twentieth of a PDF’s letters are set in: notes and captions may be smaller."},
		{Name: "widthLeast", Label: "Pictures at least so many pixels wide", As: Whole}, {Name: "heightLeast",
			Label: "and high", As: Whole}, {Name: "dpiLeast", Label: "Dots per inch at least", As: Whole},
		{Name: "colour", Label: "Colour", As: Choose, Words: words("", "either", "colour", "in colour", "grey", "in grey")},
		{Name: "secondsLeast", Label: "Runs at least so many seconds", As: Whole}, {Name: "secondsMost",
			Label: "Runs at most so many seconds", As: Whole},
		{Name: "excerptMost", Label: "An excerpt of at most so many seconds is named", As: Whole,
			Help: "Of films and recordings: those who read are led to it, and have the whole beside it."},
		{Name: "madeSince", Label: "Made on this day or later", As: Date},
		{Name: "details", Label: "Asked beside each file", As: List, Help: "A line each: its title, who is in it."},
		{Name: "ticks", Label: "To tick by the applicant, and to confirm by a checker", As: List,
			Help: "What a machine cannot see, a line each."},
		{Name: "paper", Label: "To be signed in ink: what the page to print says", As: Lines,
			Help: "Applicants print it, have it signed, scan it and put it in; a checker confirms it."},
		{Name: "same", Label: "The same paper as in", As: Choose, From: "slots",
			Help: "A file there crosses this one off: it is asked for once."},
		{Name: "needs", Label: "Belongs to a file in", As: Choose, From: "slots",
			Help: "An excerpt to its whole, a translation to its original. It says to which where there are several, and runs no longer than that."}}},
}

func slotKinds() []form.Option {
	var out []form.Option
	for _, k := range slot.Kinds {
		out = append(out, form.Option{Key: form.Key(k), Label: string(k)})
	}
	return out
}
