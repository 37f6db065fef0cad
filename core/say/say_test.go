package say_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"ulvant/core/budget"
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/pattern"
	"ulvant/core/phrase"
	"ulvant/core/say"
	"ulvant/core/slot"
)

// grants is a round of the pattern, with more questions at its end.
func grants(t testing.TB, more ...form.Question) *form.Form {
	t.Helper()
	day := func(m, d int) calendar.Wall {
		return calendar.At(calendar.NewDate(2027, 1, 1).AddMonths(m-1).AddDays(d-1), 16, 0)
	}
	d := pattern.Grants(pattern.Settings{Key: "shore", Name: "Shore", Programme: "Shore", Prefix: "SPR",
		Contact: "a@b.example", Zone: "Europe/Dublin", Currency: "EUR",
		Fund: 20_000_000, Least: 200_000, Most: 8_000_000, MatchPercent: 15, ReadersEach: 2, Opens: day(3, 1), Closes: day(4,
			9), ChecksBy: day(4, 20), ReadingEnds: day(5, 7), AnswerOn: day(5, 21), WorkFrom: calendar.NewDate(2027, 7, 1)})
	d.Tables = append(d.Tables, form.Table{Key: "courses", Label: "Courses",
		Columns: []form.Column{{Key: "credits", Label: "credits", Numbers: true}}, Rows: []form.Row{{Key: "lofting",
			Label: "Lofting", Cells: []string{"3"}}}})
	d.Lists = append(d.Lists, form.List{Key: "fields", Label: "Fields",
		Items: []form.Item{{Code: "bats", Label: "Bats"}, {Code: "owls", Label: "Owls"}}})
	for i := range more {
		more[i].Nature, more[i].Seen = form.Fact, form.ToReaders
		if more[i].Blank == "" {
			more[i].Blank = form.MeansUnknown
		}
		if more[i].Label == "" {
			more[i].Label = strings.ToUpper(string(more[i].Key[:1])) + string(more[i].Key[1:])
		}
	}
	d.Sections = append(d.Sections, form.Section{Key: "more", Label: "More", Questions: more})
	f, err := form.Compile(d)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// What stands in the way, as an applicant reads it, and what would make it right.
func TestObstacleSentences(t *testing.T) {
	f := grants(t, form.Question{Key: "ticket", Kind: form.Signatory, Label: "The owner",
		Limits: form.Cases[form.Limits]{Else: form.Limits{Referees: 1}}, Ask: &form.Ask{Wants: "it may be done."}})
	at := func(code form.Code, q form.Key, o form.Obstacle) form.Obstacle {
		o.Code, o.Place.Question = code, q
		return o
	}
	line := func(column form.Key, code form.Code, o form.Obstacle) form.Obstacle {
		o.Place.Column = column
		return at(code, "budget", o)
	}
	file := func(fault slot.Fault, have, limit int64) form.Obstacle {
		return form.Obstacle{Code: form.CodeFile, Name: "plan.pdf", Detail: string(fault), Have: have, Limit: limit}
	}
	day := calendar.NewDate(2027, 7, 1)
	for _, c := range []struct {
		o            form.Obstacle
		what, remedy string
	}{
		{at(form.CodeBlank, "site", form.Obstacle{}), "Not answered: Name of the site", "Answer it."},
		{at(form.CodeUnreadable, "start", form.Obstacle{Name: "soon"}),
			"When does work on the ground start: “soon” cannot be read", "Write it as 1 July 2027 or 2027-07-01."},
		{at(form.CodeTooLong, "describe", form.Obstacle{Have: 251, Limit: 250}),
			"Describe the work and how you will know it held is 1 word over", "It has 251 words; up to 250 are taken. Take " +
				"out 1 word."},
		{at(form.CodeTooShort, "describe", form.Obstacle{Have: 28, Limit: 30}),
			"Describe the work and how you will know it held is 2 words short", "It has 28 words; at least 30 are wanted."},
		{at(form.CodeTooManyChars, "body-name", form.Obstacle{Have: 161, Limit: 160}), "Its full name is 1 character over",
			"Up to 160 characters are taken."},
		{at(form.CodeTooLittle, "request", form.Obstacle{Have: 199_999, Limit: 200_000}),
			"How much do you ask from us: €1,999.99 is less than the least, €2,000", "Make it €2,000 or more."},
		{at(form.CodeTooMuch, "area", form.Obstacle{Have: 125, Limit: 120}),
			"How much ground is repaired: 12.5 ha is more than the most, 12 ha", "Make it 12 ha or less."},
		{at(form.CodeTooEarly, "start", form.Obstacle{Have: 17, Day: day}),
			"When does work on the ground start: 17 days too early", "Move it to 1 July 2027 or later."},
		{at(form.CodeTooLate, "start", form.Obstacle{Have: 1, Day: day}),
			"When does work on the ground start: 1 day too late", "Move it to 1 July 2027 or earlier."},
		{at(form.CodeTooOld, "start", form.Obstacle{Have: 3, Limit: 36, Day: day}),
			"When does work on the ground start: 3 days too old", "It may be at most 36 months old at the closing: of 1 " +
				"July 2027 or later."},
		{at(form.CodeTooFewPicked, "site", form.Obstacle{Have: 1, Limit: 3}),
			"Name of the site: 1 picked, at least 3 are wanted", "Pick 2 more."},
		{at(form.CodeTooManyPicked, "site", form.Obstacle{Have: 5, Limit: 3}),
			"Name of the site: 5 picked, at most 3 are taken", "Take out 2."},
		{at(form.CodePickedTwice, "site", form.Obstacle{Name: "Tarl slip"}), "Name of the site: Tarl slip stands twice",
			"Choose another for one of the two places."},
		{at(form.CodeNotSure, "request", form.Obstacle{Detail: string(form.Estimated)}),
			"How much do you ask from us: is it actual or estimated?", "Say which."},
		{at(form.CodeTooFewRows, "site", form.Obstacle{Have: 1, Limit: 2}),
			"Name of the site has 1 row; at least 2 are wanted", "Add 1 more."},
		{at(form.CodeTooManyRows, "site", form.Obstacle{Have: 9, Limit: 8}),
			"Name of the site has 9 rows; at most 8 are taken", "Empty 1."},
		{at(form.CodeBoxNumber, "post-address", form.Obstacle{Name: "P.O. Box 7"}),
			"Where post reaches you: “P.O. Box 7” is a box number", "Give the street or the name of the site, so that " +
				"somebody could go there."},
		{at(form.CodePart, "post-address", form.Obstacle{Name: "Town"}), "Where post reaches you lacks: Town", "Fill it in."},
		{at(form.CodePartUnreadable, "post-address", form.Obstacle{Name: "Phone", Detail: "x"}),
			"Where post reaches you: “x” cannot be read as phone", "Write it again."},
		{line(form.ColItem, form.CodeBudgetLine, form.Obstacle{}), "A line without a name cannot be added up",
			"Say in a few words what the money is for."},
		{line(form.ColCost, form.CodeBudgetLine, form.Obstacle{Name: "Reed"}), "“Reed”: nothing stands under “Cost”",
			"Write a sum such as 1,250 or 1,250.50."},
		{line(form.ColCost, form.CodeBudgetLine, form.Obstacle{Name: "Reed", Detail: "about 40"}),
			"“Reed”: “about 40” under “Cost” cannot be read as a sum of money", "Write a sum such as 1,250 or 1,250.50."},
		{line(form.ColQuantity, form.CodeBudgetLine, form.Obstacle{Name: "Reed", Detail: "some"}),
			"“Reed”: “some” under “quantity” cannot be read as a number", "Write a number such as 12 or 1.5."},
		{line(form.ColQuantity, form.CodeBudgetLine, form.Obstacle{Name: "Reed"}),
			"“Reed” comes to more than can be kept", "Write a smaller number, or a smaller sum for each."},
		{line(form.ColWhen, form.CodeBudgetLine, form.Obstacle{Name: "Reed", Detail: "soon"}),
			"“Reed”: “soon” under “when” cannot be read as a day", "Write it as 1 July 2027 or 2027-07-01."},
		{line(form.ColHeading, form.CodeBudgetChoice, form.Obstacle{Name: "Reed"}), "“Reed” has no heading", "Choose one."},
		{line(form.ColPeriod, form.CodeBudgetChoice, form.Obstacle{Name: "Reed"}), "“Reed” has no year",
			"Say in which year it is spent."},
		{line(form.ColPartner, form.CodeBudgetChoice, form.Obstacle{Name: "Reed"}), "“Reed” does not say whose it is",
			"Say who spends it."},
		{line(form.ColUnit, form.CodeBudgetChoice, form.Obstacle{Name: "Reed"}), "“Reed” has no unit",
			"Say what there are so many of: days, metres, pieces."},
		{line(form.ColWhen, form.CodeBudgetChoice, form.Obstacle{Name: "Reed"}),
			"“Reed” does not say when it is first spent", "Give the day, such as 1 July 2027."},
		{line(form.ColGives, form.CodeBudgetChoice, form.Obstacle{Name: "Reed"}),
			"“Reed” does not say as what it is asked", "Choose one."},
		{line(form.ColUs, form.CodeBudgetOver, form.Obstacle{Name: "Reed", Have: 200, Limit: 100}),
			"“Reed” asks €2 from us and costs €1", "Take €1 off what you ask, or make it cost €2."},
		{line(form.ColPayer, form.CodeBudgetPayer, form.Obstacle{Name: "Reed", Have: 50_000}),
			"“Reed”: who pays the other €500?", "Choose who pays it."},
		{line(form.ColUs, form.CodeBudgetDivide, form.Obstacle{Name: "Excavator", Have: 1_218_000, Limit: 1_176_000}),
			"“Excavator”: its parts come to €12,180, it costs €11,760", "Take €420 off, or make it cost €12,180."},
		{line(form.ColUs, form.CodeBudgetDivide, form.Obstacle{Name: "Punt", Have: 500_000, Limit: 534_000}),
			"“Punt”: nobody is named for €340 of its €5,340", "Say who pays it."},
		{line(form.ColEach, form.CodeBudgetValue, form.Obstacle{Name: "Oak", Have: 100, Limit: 5_000, Detail: "Timber"}),
			"“Oak”: one is put at €1, “Timber” is worth €50 here", "Write €50, or leave it empty."},
		{line(form.ColWhen, form.CodeBudgetEarly, form.Obstacle{Name: "Oak", Day: calendar.NewDate(2027, 6, 1)}),
			"“Oak” is spent before 1 June 2027", "Move it to 1 June 2027 or later; nothing before that day can be paid."},
		{line(form.ColSupplier, form.CodeBudgetSupplier, form.Obstacle{Name: "Oak", Have: 600_000}),
			"“Oak” names no supplier", "Say who would be paid €6,000."},
		{line(form.ColQuotes, form.CodeBudgetQuotes, form.Obstacle{Name: "Oak", Have: 2, Limit: 3, Detail: "€5,000"}),
			"“Oak” has 2 of 3 quotes", "From €5,000 on we want 3: attach 1 more."},
		{at(form.CodeBudgetHuge, "budget", form.Obstacle{}), "The budget comes to more than can be kept",
			"Look for a figure with too many digits."},
		{at(form.CodeBudgetRequest, "budget", form.Obstacle{Have: 6_000_000, Limit: 6_400_000}),
			"Budget asks €60,000, you asked for €64,000",
			"The lines fall €4,000 short of the request. Change one or the other."},
		{at(form.CodeBudgetRequest, "budget", form.Obstacle{Have: 6_500_000, Limit: 6_400_000, Name: "Boats"}),
			"Budget asks €65,000 as “Boats”, you asked for €64,000",
			"The lines come to €1,000 more than the request. Change one or the other."},
		{at(form.CodeBudgetMatch, "budget", form.Obstacle{Have: 1_000_000, Limit: 1_200_000, Name: "15",
			Mend: budget.Mend{Less: 200_000, More: 235_300}}),
			"Others pay €10,000; at least €12,000 is needed", "Others must pay at least 15% of the whole cost, not of the " +
				"request. Ask us for €2,000 less that others pay instead, or add costs of €2,353 that others pay."},
		{at(form.CodeBudgetMatchAsked, "budget", form.Obstacle{Have: 1_000_000, Limit: 1_200_000, Name: "25",
			Mend: budget.Mend{Less: 160_000}}),
			"Others pay €10,000; at least €12,000 is needed", "Others must pay at least 25% of what you ask from us, not of " +
				"the whole cost. Ask us for €1,600 less that others pay instead."},
		{at(form.CodeBudgetLeast, "budget", form.Obstacle{Have: 100, Limit: 500, Name: "Boats"}),
			"“Boats”: €1 is less than the least, €5", "Ask for €4 more of it, or for none."},
		{at(form.CodeBudgetMost, "budget", form.Obstacle{Have: 700, Limit: 500, Name: "Boats"}),
			"“Boats”: €7 is more than the most, €5", "Ask for €2 less of it."},
		{at(form.CodeBudgetCap, "budget", form.Obstacle{Name: "Iron", Have: 500, Limit: 400, Detail: "40 ",
			Mend: budget.Mend{Less: 200, More: 300}}),
			"“Iron” asks €5; at most €4 is allowed", "It may take at most 40% of what you ask from us. Ask for €2 less there, " +
				"or for €3 more elsewhere."},
		{at(form.CodeBudgetCap, "budget", form.Obstacle{Name: "Plant", Have: 2_710_000, Limit: 2_400_000, Detail: "30 cost",
			Mend: budget.Mend{Less: 443_000, More: 1_033_400}}),
			"“Plant” costs €27,100; at most €24,000 is allowed", "It may take at most 30% of the whole cost. Spend €4,430 " +
				"less there, or €10,334 more elsewhere."},
		{at(form.CodeBudgetCap, "budget", form.Obstacle{Name: "Plant", Have: 200, Limit: 100, Detail: "0 direct"}),
			"“Plant” costs €2; at most €1 is allowed",
			"It may take at most 0% of the cost without indirect costs. Change one or the other."},
		{at(form.CodeFileMissing, "site-plan", form.Obstacle{}), "No file yet: Site plan", "Put one in."},
		{at(form.CodeFilesFew, "site-plan", form.Obstacle{Have: 1, Limit: 2}), "Site plan: 1 file, at least 2 are wanted",
			"Put in 1 more."},
		{at(form.CodeFilesMany, "site-plan", form.Obstacle{Have: 3, Limit: 2}), "Site plan: 3 files, at most 2 are taken",
			"Take out 1."},
		{at(form.CodeFilesSize, "site-plan", form.Obstacle{Have: 9 << 20, Limit: 8 << 20}),
			"Site plan: 9 MB together, the limit is 8 MB", "Make some of them smaller."},
		{at(form.CodeFileNeeds, "site-plan", form.Obstacle{Name: "excerpt.mp3", Detail: "The whole piece"}),
			"excerpt.mp3 belongs to a file in “The whole piece”, where there is none", "Put that in too."},
		{at(form.CodeFileDetail, "site-plan", form.Obstacle{Name: "sail.jpg", Detail: "what it is"}),
			"sail.jpg: say what it is", "Write it beside the file."},
		{at(form.CodeFileMade, "site-plan", form.Obstacle{Name: "sail.jpg", Day: day}),
			"sail.jpg was made before 1 July 2027", "Only work made on that day or later is taken."},
		{at(form.CodeFileTick, "site-plan", form.Obstacle{Detail: "No name stands on it."}),
			"To tick: No name stands on it.", "Look at your files, then tick it."},
		{at(form.CodeNotAccepted, "site-plan", form.Obstacle{Name: "me.jpg"}), "Site plan is not accepted: me.jpg",
			"Take it out."},
		{at(form.CodePageRange, "site-plan", form.Obstacle{Name: "plan.pdf", Have: 9, Limit: 4}),
			"Site plan: page 9 is not in plan.pdf, which has 4", "Open the file and look again."},
		{at(form.CodePageSlot, "site", form.Obstacle{Name: "Site plan"}),
			"Name of the site points into “Site plan”, where there is no file", "Put the file in first."},
		{at(form.CodeFeeCode, "site", form.Obstacle{Name: "ISLE"}), "The code “ISLE” is not known",
			"Look at the letter it came in, or leave it out."},
		{at(form.CodeRefereeMissing, "site-referee", form.Obstacle{Limit: 1}), "1 referee to name: One referee",
			"Name somebody who can vouch for you, and ask them."},
		{at(form.CodeRefereeMissing, "ticket", form.Obstacle{Limit: 2}), "2 people to name who confirms: The owner",
			"Name them; they get a mail with a link of their own."},
		{at(form.CodeRefereeToAsk, "site-referee", form.Obstacle{Name: "Dacian Rowe"}), "Dacian Rowe has not been asked yet",
			"Check the address and ask them."},
		{at(form.CodeRefereeAsked, "site-referee", form.Obstacle{Name: "Dacian Rowe", Day: day}),
			"Dacian Rowe has not answered; asked on Thu 1 Jul", "Remind them, or name somebody else."},
		{at(form.CodeRefereeWriting, "site-referee", form.Obstacle{Name: "Dacian Rowe"}),
			"Dacian Rowe has said yes; the letter has not come", "It may still come. You may remind them."},
		{at(form.CodeRefereeNo, "site-referee", form.Obstacle{Name: "Dacian Rowe"}), "Dacian Rowe cannot do it",
			"Name somebody else."},
		{at(form.CodeLetterNotSent, "site-referee", form.Obstacle{Name: "Dacian Rowe"}),
			"Dacian Rowe has a letter uploaded but not sent",
			"It counts only once they press Send. We remind them; so may you."},
		{at(form.CodeNotAgreed, "may-visit", form.Obstacle{}),
			"To agree: The Trust may visit the site before it decides and while the work goes on.", "Read it and tick it."},
		{at(form.CodeBlank, "may-visit", form.Obstacle{}),
			"To agree: The Trust may visit the site before it decides and while the work goes on.", "Read it and tick it."},
		{at(form.CodeInitials, "may-visit", form.Obstacle{Name: "Ana-Mara Ó Sé", Detail: "xy"}),
			"“xy” are not the initials of Ana-Mara Ó Sé", "Type AMÓS if you agree."},
		{at(form.CodeNoAward, "site", form.Obstacle{}), "None of the awards fits what you answered",
			"Choose those you want to be considered for, or look at your answers again."},
		{at(form.CodeNotAuthorised, "signed", form.Obstacle{Name: "Bo Lind"}),
			"Bo Lind is not among those who may sign for you", "Choose one of them. Who may sign is said, and confirmed, in " +
				"the profile of your organisation."},
		{at(form.CodeNameDiffers, "signed", form.Obstacle{Name: "Imre Calloway"}), "The typed name is not the name on file",
			"Type it as on file: Imre Calloway."},
		{at(form.CodeNotEligible, "district", form.Obstacle{Name: "Where the work is", Detail: "Only inside."}),
			"This round cannot take it: Where the work is", "Only inside."},
		{file(slot.TooMany, 12, 10), "plan.pdf is 12 pages, the limit is 10", "Shorten it and put it in again."},
		{file(slot.TooLarge, 7<<20, 6<<20), "plan.pdf is 7 MB, the limit is 6 MB",
			"Make it smaller, by saving its pictures at a lower quality, and put it in again."},
		{file(slot.WrongKind, 0, 0), "plan.pdf is not of a kind that is taken here",
			"Save or export it as one of those named above."},
		{file(slot.NoText, 0, 0), "plan.pdf holds pictures of pages, no text",
			"Save it from the program it was written in, instead of scanning it."},
		{form.Obstacle{Code: form.CodeFileWhole, Name: "cut.mp4", Detail: "Films"},
			"cut.mp4: say which of “Films” it belongs to",
			"Choose it beside the file."},
		{form.Obstacle{Code: form.CodeFileWhole, Name: "cut.mp4", Have: 61, Limit: 30},
			"cut.mp4 runs 1 min 1 s, longer than the whole it belongs to (30 s)", "Cut it, or say that it belongs to another."},
		{file(slot.SmallType, 95, 110), "plan.pdf is set in type of 9.5 points, at least 11 are wanted",
			"Set it in larger type and put it in again."},
		{file(slot.TooSmall, 640, 800), "plan.pdf has 640 pixels where 800 are wanted", "Put in a larger picture."},
		{file(slot.TooCoarse, 72, 150), "plan.pdf has 72 dots per inch, at least 150 are wanted", "Scan or export it finer."},
		{file(slot.NotGrey, 0, 0), "plan.pdf is in colour", "Put in a grey one."},
		{file(slot.TooLong, 200, 180), "plan.pdf runs 3 min 20 s, the limit is 3 min", "Cut it."},
		{file(slot.TooShort, 40, 60), "plan.pdf runs 40 s, at least 1 min is wanted", "Put in a longer one."},
		{file(slot.Locked, 0, 0), "plan.pdf is locked with a password", "Save it without a password and put it in again."},
		{file(slot.Unfinished, 0, 0), "plan.pdf never arrived whole", "Put it in again, or take it out."},
		{file(slot.Arriving, 72<<20, 300<<20), "plan.pdf is on its way: 72 MB of 300 MB are here",
			"Stay on any page of this application until all of it has come; if it stands still, choose the file once more."},
		{form.Obstacle{Code: form.CodeFile, Name: "storm.wav", Detail: string(slot.TooHard)}, "storm.wav could not be opened",
			"Save or export it anew and put that in."},
		{file("", 0, 0), "plan.pdf could not be opened", "Print it to a new PDF and put that in."},
	} {
		if what, remedy := say.Obstacle(f, c.o); what != c.what || remedy != c.remedy {
			t.Errorf("%s:\n %q\n %q, want\n %q\n %q", c.o.Code, what, remedy, c.what, c.remedy)
		}
	}
}

// Every code that the core can name has a sentence of its own, and stands in a
// group of the overview.
func TestEveryObstacleHasASentence(t *testing.T) {
	f := grants(t)
	for name, value := range constants(t, "../form", "Code") {
		code := form.Code(value)
		if what, _ := say.Obstacle(f, form.Obstacle{Code: code, Name: "It",
			Detail: string(form.Estimated)}); strings.HasPrefix(what, value+":") {
			t.Errorf("%s has no sentence", name)
		}
	}
}

// constants of a type, by their names, from the source of a package.
func constants(t *testing.T, folder, typ string) map[string]string {
	t.Helper()
	out := map[string]string{}
	files, err := filepath.Glob(folder + "/*.go")
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range files {
		file, err := parser.ParseFile(token.NewFileSet(), name, nil, 0)
		if err != nil {
			t.Fatal(err)
		}
		ast.Inspect(file, func(n ast.Node) bool {
			v, ok := n.(*ast.ValueSpec)
			if !ok {
				return true
			}
			if id, ok := v.Type.(*ast.Ident); ok && id.Name == typ && len(v.Values) == 1 {
				if lit, ok := v.Values[0].(*ast.BasicLit); ok {
					s, err := strconv.Unquote(lit.Value)
					if err != nil {
						t.Fatal(err)
					}
					out[v.Names[0].Name] = s
				}
			}
			return true
		})
	}
	if len(out) < 10 {
		t.Fatalf("only %d constants of %s were found", len(out), typ)
	}
	return out
}

// What may be written, before anything is wrong.
func TestLimitSentences(t *testing.T) {
	f := grants(t)
	n := func(i int64) *int64 { return &i }
	q := func(k form.Kind) *form.Question {
		return &form.Question{Kind: k, Unit: map[form.Kind]string{form.Number: "m"}[k],
			Scale: map[form.Kind]int{form.Number: 1}[k], Options: []form.Option{{Key: "iron", Label: "Iron"}}}
	}
	for _, c := range []struct {
		q    *form.Question
		l    form.Limits
		says string
	}{
		{q(form.Long), form.Limits{}, ""},
		{q(form.Long), form.Limits{Words: 1}, "Up to 1 word, counted as your word processor counts them."},
		{q(form.Long), form.Limits{Words: 250, LeastWords: 30},
			"From 30 to 250 words, counted as your word processor counts them."},
		{q(form.Long), form.Limits{LeastWords: 30}, "At least 30 words."},
		{q(form.Long), form.Limits{Characters: 400}, "Up to 400 characters."},
		{q(form.Money), form.Limits{Least: n(200_000), Most: n(8_000_000)}, "From €2,000 to €80,000."},
		{q(form.Money), form.Limits{Most: n(150)}, "Up to €1.50."},
		{q(form.Number), form.Limits{Least: n(300)}, "30 m or more."},
		{q(form.Number), form.Limits{Least: n(0)}, ""},
		{q(form.Percent), form.Limits{Most: n(40)}, "Up to 40%."},
		{q(form.Date), form.Limits{NotBefore: &form.Day{Key: form.WorkFrom}}, "Not before 1 July 2027."},
		{q(form.Date), form.Limits{NotAfter: &form.Day{On: calendar.NewDate(2027, 9, 30)}, MonthsOld: 1},
			"Not after 30 September 2027. Not older than 1 month on the day of closing."},
		{q(form.Several), form.Limits{PickLeast: 2, PickMost: 2}, "Pick exactly 2."},
		{q(form.Several), form.Limits{PickLeast: 1, PickMost: 3}, "Pick from 1 to 3."},
		{q(form.Several), form.Limits{PickMost: 3}, "Pick at most 3."},
		{q(form.Rows), form.Limits{RowsLeast: 1}, "At least 1 row."},
		{q(form.Rows), form.Limits{RowsLeast: 1, RowsMost: 8}, "From 1 to 8 rows."},
		{q(form.Budget), form.Limits{MatchPercent: 15, Caps: []form.Cap{{Heading: "iron", Percent: 40}}},
			"Others pay at least 15% of the whole cost. “Iron” takes at most 40% of what you ask."},
		{q(form.File), form.Limits{Slot: &slot.Limits{SizeMost: 6 << 20, PagesMost: 10}},
			"PDF, up to 6 MB, at most 10 pages."},
		{q(form.File), form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{slot.PDF, slot.Picture}, FilesLeast: 2,
			FilesMost: 4, SizeMost: 1 << 20, SizeAll: 3 << 20, PagesMost: 1, TitleApart: true}}, "PDF or picture, 2 to 4 " +
			"files, up to 1 MB each, 3 MB in all, at most 1 page and a title page."},
		{q(form.File), form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{slot.Picture}, FilesLeast: 2, FilesMost: 2,
			SizeMost: 1 << 20, WidthLeast: 800, HeightLeast: 600, DPILeast: 150, Colour: "grey"}},
			"Picture, exactly 2 files, up to 1 MB each, at least 800 × 600 pixels, at least 150 dots per inch, in grey."},
		{q(form.File), form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{slot.Film}, SizeMost: 1 << 20, SecondsLeast: 30,
			SecondsMost: 90, MadeSince: calendar.NewDate(2026, 1,
				1)}}, "Film, up to 1 MB, 30 s to 1 min 30 s long, made on 1 January 2026 or later."},
		{q(form.File), form.Limits{Slot: &slot.Limits{Wish: slot.BetterNot, SizeMost: 1 << 20, TextLeast: true,
			TypeLeast: 10}},
			"Better left out. If you must: PDF, up to 1 MB, holding text, not scans, in type of at least 10 points."},
		{q(form.File), form.Limits{Slot: &slot.Limits{Wish: slot.NotAccepted}},
			"Nothing is accepted here; please send none."},
	} {
		if got := say.Limit(f, c.q, c.l, true); got != c.says {
			t.Errorf("%s %+v: %q, want %q", c.q.Kind, c.l, got, c.says)
		}
	}
	if got := say.Limit(f, q(form.Long), form.Limits{Words: 320}, false); !strings.HasSuffix(got,
		"This may become less, by an answer that is still open.") {
		t.Errorf("while the case is open: %q", got)
	}
}

// An answer as readers, the office and print show it.
func TestAnswerSentences(t *testing.T) {
	two := []form.Option{{Key: "one", Label: "One"}, {Key: "two", Label: "Two"}}
	f := grants(t,
		form.Question{Key: "several", Kind: form.Several, Options: two}, form.Question{Key: "order", Kind: form.Ranked,
			Options: two},
		form.Question{Key: "heads", Kind: form.Counts, Options: two}, form.Question{Key: "course", Kind: form.Pick,
			Table: "courses"},
		form.Question{Key: "field", Kind: form.Keywords, List: "fields", Proposals: true}, form.Question{Key: "part",
			Kind: form.Percent, Scale: 1},
		form.Question{Key: "length", Kind: form.Number, Scale: 1, Unit: "m"}, form.Question{Key: "cost", Kind: form.Money,
			Sure: form.Estimated},
		form.Question{Key: "known", Kind: form.Short, NonAnswers: []form.NonAnswer{form.NotKnown}},
		form.Question{Key: "people", Kind: form.Rows, Columns: []form.Question{
			{Key: "who", Kind: form.Short, Label: "Who", Nature: form.Fact, Seen: form.ToReaders,
				Blank: form.Required}, {Key: "paid", Kind: form.Money, Label: "Paid", Nature: form.Fact, Seen: form.ToReaders,
				Blank: form.Required}}},
	)
	for _, c := range []struct {
		q     form.Key
		typed map[string]string // by row:column
		says  string
	}{
		{"several", map[string]string{":": "two\none"}, "Two, One"},
		{"order", map[string]string{":place-a": "two", ":place-b": "one"}, "First: Two\nSecond: One"},
		{"heads", map[string]string{":one": "3", ":two": "4"}, "One: 3, Two: 4, all: 7"},
		{"course", map[string]string{":": "lofting"}, "Lofting; credits 3"},
		{"field", map[string]string{":": "owls\nnew: newts"}, "Owls, newts (proposed)"},
		{"part", map[string]string{":": "12.5"}, "12.5%"},
		{"length", map[string]string{":": "40.50"}, "40.50"},
		{"length", map[string]string{":": "40.5"}, "40.5 m"},
		{"cost", map[string]string{":": "61000", ":sure": "estimated"}, "€61,000 (estimated)"},
		{"known", map[string]string{":": "  as typed "}, "as typed"},
		{"people", map[string]string{"r0001:who": "Ann", "r0001:paid": "1200", "r0002:who": "Bo", "r0002:paid": "300.5"},
			"Who: Ann; Paid: €1,200\nWho: Bo; Paid: €300.50\nAll of “Paid”: €1,500.50"},
		{"people", nil, ""},
		{"land-leave", map[string]string{":": "yes"}, "yes"},
		{"true", map[string]string{":": "yes"}, "agreed"},
		{"start", map[string]string{":": "2027-07-01"}, "1 July 2027"},
	} {
		x := &form.Filled{Answers: map[form.Place]form.Answer{}}
		for at, v := range c.typed {
			row, col, _ := strings.Cut(at, ":")
			if col == "sure" {
				col = string(form.ColSure)
			}
			x.Answers[form.Place{Question: c.q, Row: row, Column: form.Key(col)}] = form.Answer{Raw: v}
		}
		if got := say.Answer(f, f.Question(c.q), x, f.Walk(x).Find(c.q)); got != c.says {
			t.Errorf("%s %v: %q, want %q", c.q, c.typed, got, c.says)
		}
	}
	x := &form.Filled{Answers: map[form.Place]form.Answer{{Question: "known"}: {Non: form.NotKnown}}}
	if got := say.Answer(f, f.Question("known"), x, f.Walk(x).Find("known")); got != "not known" {
		t.Errorf("an honest non-answer reads %q", got)
	}
}

// Conditions, as they read back while they are built.
func TestConditionsReadBack(t *testing.T) {
	f := grants(t, form.Question{Key: "field", Kind: form.Keywords, List: "fields"})
	ref := func(k form.Key) condition.Ref { return condition.Ref{Answer: k} }
	test := func(of condition.Ref, rel condition.Rel, v condition.Value) condition.Cond {
		return condition.Cond{Test: &condition.Test{Of: of, Rel: rel, Value: &v}}
	}
	num := func(n, d int64) condition.Value {
		return condition.Value{Number: &condition.Number{Num: n, Den: d}}
	}
	yes := true
	road := test(ref("site-access"), condition.Is, condition.Value{Text: "road"})
	for _, c := range []struct {
		c    condition.Cond
		says string
	}{
		{condition.Cond{}, ""},
		{road, "“How is the site reached” is By road or on foot"},
		{test(ref("land-leave"), condition.Is, condition.Value{Yes: &yes}),
			"“Do you own the land, or have leave to work on it” is yes"},
		{test(ref("district"), condition.In, condition.Value{List: []string{"hallin", "tarl"}}),
			"“Which district is the site in” is one of Hallin, Tarl"},
		{test(ref("request"), condition.AtLeast, num(2_000_000, 1)), "“How much do you ask from us” is at least €20,000"},
		{test(condition.Ref{Figure: "our-share"}, condition.More, num(1, 3)), "our share of the cost is more than 33.33%"},
		{test(ref("area"), condition.Less, num(25, 2)), "“How much ground is repaired” is less than 12.5 ha"},
		{test(ref("start"), condition.AtMost, condition.Value{Date: calendar.NewDate(2027, 9, 1)}),
			"“When does work on the ground start” is on or before 1 September 2027"},
		{condition.Cond{Test: &condition.Test{Of: ref("start"), Rel: condition.More,
			Other: &condition.Ref{Date: form.AnswerOn}}}, "“When does work on the ground start” is after " +
			f.Design.Calendar[momentAt(f, form.AnswerOn)].Label + ", 21 May 2027"},
		{test(ref("field"), condition.Includes, condition.Value{Text: "bats"}), "“Field” includes Bats"},
		{test(condition.Ref{Fixed: condition.OthersInRound}, condition.AtMost, num(0, 1)),
			"how many others the applicant has sent in this round is at most 0"},
		{condition.Cond{Any: []condition.Cond{road, test(ref("land-leave"), condition.Is, condition.Value{Yes: &yes})}},
			"“How is the site reached” is By road or on foot or “Do you own the land, or have leave to work on it” is yes"},
	} {
		if got := say.When(c.c, say.Names{Form: f}); got != c.says {
			t.Errorf("%q, want %q", got, c.says)
		}
	}
}

func momentAt(f *form.Form, k form.Key) int {
	for i, m := range f.Design.Calendar {
		if m.Key == k {
			return i
		}
	}
	return -1
}

// Whatever is written to the trail has a sentence.
func TestEveryVerbHasASentence(t *testing.T) {
	written := regexp.MustCompile(`(?:trail\.Write\(ctx, tx, |\.note\(ctx, tx, c, |\.change\(ctx, tx, c, r, form\.\w+, )"([a-z -]+)"`)
	n := 0
	err := filepath.WalkDir("../../internal", func(path string, d os.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		for _, m := range written.FindAllStringSubmatch(string(raw), -1) {
			n++
			if say.Catalogue[say.Verb(m[1])].Sentence == "" {
				t.Errorf("%s writes %q, which has no sentence", path, m[1])
			}
		}
		return nil
	})
	if err != nil || n < 10 {
		t.Errorf("%d verbs were found: %v", n, err)
	}
	got := say.Happened("put-file", func(name string) string { return "<" + name + ">" })
	if got != "put a file into “<question>”: <pages>" {
		t.Errorf("%q", got)
	}
}

// Small words: sizes, running times, counts, ages of days, worth of an award.
func TestSmallWords(t *testing.T) {
	for got, want := range map[string]string{
		phrase.Bytes(1): "1 byte", phrase.Bytes(999): "999 bytes", phrase.Bytes(1500): "2 kB", phrase.Bytes(6 << 20): "6 MB",
		phrase.Bytes(3 << 19): "1.5 MB", phrase.Bytes(1023): "1023 bytes", phrase.Bytes(1024): "1 kB",
		phrase.Bytes(1<<20 - 1): "1 MB", phrase.Bytes(4 << 30): "4 GB", phrase.Bytes(840_000): "821 kB",
		phrase.Seconds(59): "59 s", phrase.Seconds(120): "2 min", phrase.Seconds(150): "2 min 30 s",
		phrase.Count(1, "word", "words"): "1 word", phrase.Count(0, "word", "words"): "0 words",
		phrase.Initial("“its site” is"): "“Its site” is", phrase.Initial(""): "", phrase.Initial("ørn"): "Ørn",
		form.Award{Purse: 400_000, Places: 1, Led: "merit", Donor: "Ada Quill",
			About: "For somebody who sews."}.Sentence("EUR"): "€4,000, merit-led, given by Ada Quill. For somebody who sews.",
		form.Award{Purse: 150_000,
			Places: 2}.Sentence("EUR"): money.Format(150_000, "EUR") + " for each of 2",
		form.Award{About: "A medal."}.Sentence("EUR"): "A medal.",
	} {
		if got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}
