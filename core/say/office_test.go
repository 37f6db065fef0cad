package say_test

import (
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/core/slot"
)

// How an answer is written, said when one cannot be read.
func TestHowItIsWritten(t *testing.T) {
	for _, c := range []struct {
		q    *form.Question
		want string
	}{
		{nil, ""},
		{&form.Question{Kind: form.Date}, "Write it as 1 July 2027 or 2027-07-01."},
		{&form.Question{Kind: form.Money}, "Write a sum such as 64,000 or 1,250.50."},
		{&form.Question{Kind: form.Number}, "Write a whole number."},
		{&form.Question{Kind: form.Number, Scale: 1}, "Write a number with at most 1 decimal."},
		{&form.Question{Kind: form.Percent, Scale: 2}, "Write a number with at most 2 decimals."},
		{&form.Question{Kind: form.Grade}, "Write the number as it stands on the paper, such as 3.5."},
		{&form.Question{Kind: form.AwardPick}, "Choose from those offered."},
		{&form.Question{Kind: form.Keywords}, "Choose from the list."},
		{&form.Question{Kind: form.Phone}, "Write the whole number; from another country begin with + and its code."},
		{&form.Question{Kind: form.Mail}, "Write it as name@place.example."},
		{&form.Question{Kind: form.Link}, "Write the whole address, such as https://place.example/page."},
		{&form.Question{Kind: form.PageRef}, "Write a page such as 12, or pages such as 12–15."},
		{&form.Question{Kind: form.Identifier, Scheme: "iban"}, "Check it against the paper: it is not a whole account number (IBAN), or a sign is wrong."},
		{&form.Question{Kind: form.Long}, "Write it again."},
	} {
		if got := say.Form(c.q); got != c.want {
			t.Errorf("%+v: %q, want %q", c.q, got, c.want)
		}
	}
}

// What to have ready before one sits down to write.
func TestNeeded(t *testing.T) {
	most := int64(5_000_000)
	for _, c := range []struct {
		q    form.Question
		want string
	}{
		{form.Question{Kind: form.File, Label: "Site plan", Limits: one(form.Limits{Slot: &slot.Limits{SizeMost: 6 << 20, PagesMost: 4}})}, "Site plan: PDF, up to 6 MB, at most 4 pages."},
		{form.Question{Kind: form.File, Label: "A photograph", Limits: one(form.Limits{Slot: &slot.Limits{Wish: slot.NotAccepted}})}, ""},
		{form.Question{Kind: form.Referee, Limits: one(form.Limits{Referees: 2}), Ask: &form.Ask{Wants: "a letter."}}, "2 referees, by name and mail address; we write to them."},
		{form.Question{Kind: form.Signatory, Label: "The owner", Limits: one(form.Limits{Referees: 1}), Ask: &form.Ask{Wants: "it may be done."}}, "The owner: 1 person to confirm it, by name and mail address."},
		{form.Question{Kind: form.Long, Label: "Why here?", Limits: one(form.Limits{Words: 250})}, "“Why here?” in up to 250 words."},
		{form.Question{Kind: form.Identifier, Label: "Number of the body", Scheme: "lei"}, "Number of the body."},
		{form.Question{Kind: form.Money, Label: "Request", Limits: one(form.Limits{Most: &most})}, ""},
		{form.Question{Kind: form.Long, Label: "Why peat?", Asked: onlyFor("repair-kind", "peat")}, "“Why peat?”. Only if “What kind of repair is it” is Peat."},
	} {
		c.q.Key = "x"
		f := grants(t, c.q)
		if got := say.Needed(f, f.Question("x")); got != c.want {
			t.Errorf("%s: %q, want %q", c.q.Kind, got, c.want)
		}
	}
}

func one(l form.Limits) form.Cases[form.Limits] { return form.Cases[form.Limits]{Else: l} }

func onlyFor(q form.Key, value string) condition.Cond {
	return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: q}, Rel: condition.Is, Value: &condition.Value{Text: value}}}
}

// What is said of a file, and whom a hidden-name round warns.
func TestFilesInWords(t *testing.T) {
	for _, c := range []struct {
		size int64
		f    slot.Facts
		want string
	}{
		{840_000, slot.Facts{Kind: slot.PDF, Pages: 1}, "821 kB · 1 page"},
		{6 << 20, slot.Facts{Kind: slot.PDF, Pages: 12}, "6 MB · 12 pages"},
		{999, slot.Facts{Kind: slot.Picture, Width: 1200, Height: 900}, "999 bytes · 1200 × 900 pixels"},
		{3 << 20, slot.Facts{Kind: slot.Film, Seconds: 150.4}, "3 MB · 2 min 30 s"},
		{1, slot.Facts{}, "1 byte"},
	} {
		if got := say.File(c.size, c.f); got != c.want {
			t.Errorf("%q, want %q", got, c.want)
		}
	}
	f := grants(t)
	readers, office := &form.Question{Kind: form.File, Seen: form.ToReaders}, &form.Question{Kind: form.File, Seen: form.ToOffice}
	for _, c := range []struct {
		hidden bool
		q      *form.Question
		author string
		warns  bool
	}{{true, readers, "Imre Calloway", true}, {true, readers, "", false}, {true, office, "Imre Calloway", false}, {false, readers, "Imre Calloway", false}} {
		f.Design.HideNames = c.hidden
		if got := say.NamesAuthor(f, c.q, slot.Facts{Author: c.author}); (got != "") != c.warns || c.warns && !strings.Contains(got, "“Imre Calloway”") {
			t.Errorf("%+v: %q", c, got)
		}
	}
}

// What is asked of a letter, and why one cannot be sent. Months and years as in
// common practice, no source.
func TestLetters(t *testing.T) {
	ask := &form.Ask{LetterMonths: 6, YearsLeast: 2}
	closing, today := calendar.NewDate(2027, 4, 9), calendar.NewDate(2027, 3, 2)
	if got := say.LetterNeeds(ask); got != "The letter is at most 6 months old at the closing. It speaks of at least 2 years." {
		t.Errorf("needs: %q", got)
	}
	for _, a := range []*form.Ask{nil, {}} {
		if got := say.LetterNeeds(a); got != "" {
			t.Errorf("nothing asked: %q", got)
		}
	}
	day := calendar.NewDate(2027, 1, 5)
	for _, c := range []struct {
		d    form.Dating
		want string
	}{
		{form.Dating{From: 2025, To: 2026}, "Give the day on the letter."},
		{form.Dating{Dated: today.AddDays(1), From: 2025, To: 2026}, "The day on the letter lies ahead; give the day it was signed."},
		{form.Dating{Dated: calendar.NewDate(2026, 10, 8), From: 2025, To: 2026}, "The letter must be dated 9 October 2026 or later; put a newer one in its place."},
		{form.Dating{Dated: calendar.NewDate(2026, 10, 9), From: 2025, To: 2026}, ""},
		{form.Dating{Dated: day}, "Say from which year to which you can speak of them."},
		{form.Dating{Dated: day, From: 2026, To: 2025}, "The last year stands before the first."},
		{form.Dating{Dated: day, From: 2026, To: 2028}, "The last year lies ahead."},
		{form.Dating{Dated: day, From: 2026, To: 2026}, "The letter must speak of at least 2 years."},
		{form.Dating{Dated: day, From: 2026, To: 2027}, ""},
	} {
		fault := ask.Fault(c.d, today, closing)
		got := ""
		if fault != "" {
			got = say.LetterFault(ask, fault, closing)
		}
		if got != c.want {
			t.Errorf("%+v: %q, want %q", c.d, got, c.want)
		}
	}
}

// Where people are stuck, by whose move it is.
func TestStuck(t *testing.T) {
	third := map[form.Code]bool{form.CodeRefereeAsked: true, form.CodeRefereeWriting: true, form.CodeLetterNotSent: true}
	for _, value := range constants(t, "../form", "Code") {
		c := form.Code(value)
		if move := say.StuckOn(c); (move == lifecycle.Third) != third[c] {
			t.Errorf("%s is for %s", c, move)
		}
		if s := say.Stuck(c); s == value || strings.HasSuffix(s, ".") {
			t.Errorf("%s: %q", c, s)
		}
	}
	names := say.RuleNames(grants(t))
	for _, k := range []form.Key{"files-open", form.TickRule("site-plan"), form.PaperRule("site-referee")} {
		if names[k] == "" {
			t.Errorf("%s has no name", k)
		}
	}
}

// Rows of a table and lines of a budget, as they are read.
func TestTablesInWords(t *testing.T) {
	f := grants(t, form.Question{Key: "aid", Kind: form.Rows, Label: "Aid received", Columns: []form.Question{
		{Key: "giver", Kind: form.Short, Label: "Giver", Nature: form.Fact, Blank: form.Required, Seen: form.ToReaders},
		{Key: "sum", Kind: form.Money, Label: "Sum", Nature: form.Fact, Blank: form.Required, Seen: form.ToReaders}}})
	x := &form.Filled{Answers: map[form.Place]form.Answer{}}
	put := func(q form.Key, row string, col form.Key, v string) {
		x.Answers[form.Place{Question: q, Row: row, Column: col}] = form.Answer{Raw: v}
	}
	put("aid", "r0001", "giver", "The isles")
	put("aid", "r0001", "sum", "1,200")
	put("aid", "r0002", "giver", "Hallin")
	put("aid", "r0002", "sum", "many")
	put("budget", "r0001", form.ColItem, "Reed stock")
	put("budget", "r0001", form.ColCost, "400")
	put("budget", "r0001", form.ColUs, "300")
	put("budget", "r0001", form.ColPayer, "in kind")
	p := f.Walk(x)
	if got := say.Answer(f, f.Question("budget"), x, p.Find("budget")); got != "Reed stock: €400, of which from us €300; the rest: in kind\nAll: €400, from us €300, from others €100" {
		t.Errorf("the budget reads %q", got)
	}
	found := false
	for _, o := range p.Obstacles {
		if o.Place.Question == "aid" {
			what, remedy := say.Obstacle(f, o)
			found = what == "Sum in a row of “Aid received”: “many” cannot be read" && remedy == "Write a sum such as 64,000 or 1,250.50."
			if !found {
				t.Errorf("%q %q", what, remedy)
			}
		}
	}
	if !found {
		t.Error("a row that cannot be read is no obstacle")
	}
}
