package form_test

import (
	"slices"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/pattern"
	"ulvant/core/slot"
)

func settings() pattern.Settings {
	day := func(m, d, h int) calendar.Wall {
		return calendar.At(calendar.NewDate(2027, 1, 1).AddMonths(m-1).AddDays(d-1), h, 0)
	}
	return pattern.Settings{Key: "shore-2027", Name: "Shore repair", Programme: "Shore repair", Prefix: "SPR",
		Contact: "a@b.example", Zone: "Europe/Dublin", Currency: "EUR",
		Fund: 20_000_000, Least: 200_000, Most: 8_000_000, MatchPercent: 15, ReadersEach: 2, HoldMinutes: 30,
		Opens: day(3, 1, 9), Closes: day(4, 9, 16), ChecksBy: day(4, 20, 17), ReadingEnds: day(5, 7, 17), AnswerOn: day(5,
			21, 12), WorkFrom: calendar.NewDate(2027, 7, 1)}
}

func grants(t testing.TB) *form.Form {
	t.Helper()
	f, err := form.Compile(pattern.Grants(settings()))
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// filled is an application that lacks nothing.
func filled() *form.Filled {
	f := &form.Filled{Lead: "Imre Calloway", Answers: map[form.Place]form.Answer{},
		Files: map[form.Key][]slot.File{"site-plan": {{Name: "plan.pdf", Size: 9, State: slot.Ready,
			Facts: slot.Facts{Kind: slot.PDF, Pages: 2}}}},
		Referees: map[form.Key][]form.RefereeStanding{"site-referee": {{Name: "Dacian Rowe", Letter: form.SentIn}}}}
	for k, v := range map[form.Key]string{"applicant-kind": "common", "body-name": "Corvoe Common", "district": "corvoe",
		"site": "the strand", "land-leave": "yes", "site-access": "road",
		"repair-kind": "shore", "area": "3.2", "describe": "We replant.", "afterwards": "Wardens.", "start": "1 July 2027",
		"request": "64,000", "paid-elsewhere": "no",
		"true": "yes", "may-visit": "yes", "signed": "imre  calloway"} {
		f.Answers[form.Place{Question: k}] = form.Answer{Raw: v}
	}
	set(f, "post-address", "", "street", "4 Quay Row")
	set(f, "post-address", "", "town", "Corvoe")
	set(f, "post-address", "", "postcode", "OI4 2RT")
	for row, line := range map[string][4]string{"r0001": {"Reed stock", "38,400", "30,000", "own money"},
		"r0002": {"Groynes", "29500", "24000", "in kind"}, "r0003": {"Survey", "12100", "10000", "own money"}} {
		for i, c := range []form.Key{form.ColItem, form.ColCost, form.ColUs, form.ColPayer} {
			set(f, "budget", row, c, line[i])
		}
	}
	return f
}

func set(f *form.Filled, q form.Key, row string, col form.Key, v string) {
	f.Answers[form.Place{Question: q, Row: row, Column: col}] = form.Answer{Raw: v}
}

func codes(p *form.Path) string {
	var out []string
	for _, o := range p.Obstacles {
		out = append(out, string(o.Code)+" at "+string(o.Place.Question))
	}
	return strings.Join(out, ", ")
}

// One change at a time to an application that lacks nothing, and what then
// stands in its way. Sums and limits as the-job.md describes them.
func TestObstacles(t *testing.T) {
	f := grants(t)
	long := strings.TrimSpace(strings.Repeat("reed ", 251))
	q := func(k form.Key, v string) func(*form.Filled) { return func(x *form.Filled) { set(x, k, "", "", v) } }
	referee := func(s form.LetterState) func(*form.Filled) {
		return func(x *form.Filled) {
			x.Referees["site-referee"] = []form.RefereeStanding{{Name: "Dacian Rowe", Letter: s}}
		}
	}
	file := func(s slot.File) func(*form.Filled) {
		return func(x *form.Filled) { x.Files["site-plan"] = []slot.File{s} }
	}
	for _, c := range []struct {
		what string
		do   func(*form.Filled)
		want string
		move lifecycle.Move
	}{
		{"nothing", func(*form.Filled) {}, "", lifecycle.Applicant},
		{"a blank", q("site", " "), "blank at site", lifecycle.Applicant},
		{"251 of 250 words", q("describe", long), "too-long at describe", lifecycle.Applicant},
		{"251 words are fine for peat", func(x *form.Filled) {
			set(x, "describe", "", "", long)
			set(x, "repair-kind", "", "", "peat")
			set(x, "peat-depth", "", "", "140")
		}, "", lifecycle.Applicant},
		{"peat asks its depth", q("repair-kind", "peat"), "blank at peat-depth", lifecycle.Applicant},
		{"17 days too early", q("start", "14 June 2027"), "too-early at start", lifecycle.Applicant},
		{"a date that cannot be read", q("start", "in summer"), "unreadable at start", lifecycle.Applicant},
		{"a box number", func(x *form.Filled) { set(x, "post-address", "", "street", "PO Box 12") },
			"box-number at post-address", lifecycle.Applicant},
		{"no town", func(x *form.Filled) { set(x, "post-address", "", "town", "") }, "part-missing at post-address",
			lifecycle.Applicant},
		{"asks too little", q("request", "1,999.99"), "below-least at request, budget-request at budget",
			lifecycle.Applicant},
		{"asks one euro more than the lines", q("request", "64,001"), "budget-request at budget", lifecycle.Applicant},
		{"a line asks more than it costs", func(x *form.Filled) { set(x, "budget", "r0002", form.ColCost, "23999") },
			"budget-line-over at budget, budget-match at budget", lifecycle.Applicant},
		{"nobody pays the rest of a line", func(x *form.Filled) { set(x, "budget", "r0001", form.ColPayer, "") },
			"budget-payer at budget", lifecycle.Applicant},
		{"a line that we pay wholly needs nobody else", func(x *form.Filled) {
			set(x, "budget", "r0003", form.ColCost, "10000")
			set(x, "budget", "r0003", form.ColPayer, "")
			set(x, "budget", "r0001", form.ColCost, "40,500")
		}, "", lifecycle.Applicant},
		{"a line that cannot be read", func(x *form.Filled) { set(x, "budget", "r0001", form.ColCost, "about 40") },
			"budget-line at budget", lifecycle.Applicant},
		{"14 pages of 10", file(slot.File{Name: "plan.pdf", Size: 9, State: slot.Ready,
			Facts: slot.Facts{Kind: slot.PDF, Pages: 14}}), "file at site-plan", lifecycle.Applicant},
		{"a file still being opened holds nothing up", file(slot.File{Size: 9, State: slot.Inspecting}), "",
			lifecycle.Applicant},
		{"no file", func(x *form.Filled) { x.Files = nil }, "file-missing at site-plan", lifecycle.Applicant},
		{"no referee", func(x *form.Filled) { x.Referees = nil }, "referee-missing at site-referee", lifecycle.Applicant},
		{"asked", referee(form.Asked), "referee-asked at site-referee", lifecycle.Third},
		{"uploaded is not sent", referee(form.Uploaded), "letter-not-sent at site-referee", lifecycle.Third},
		{"declined", referee(form.Declined), "referee-declined at site-referee", lifecycle.Applicant},
		{"a declaration skipped", q("true", "no"), "not-agreed at true", lifecycle.Applicant},
		{"another name", q("signed", "I. Calloway"), "name-differs at signed", lifecycle.Applicant},
		{"outside the isles", q("district", "elsewhere"), "not-eligible at district", lifecycle.Applicant},
		{"by water asks a section", q("site-access", "water"), "blank at landing, blank at boat-insured",
			lifecycle.Applicant},
		{"a group needs a body to hold the money", q("applicant-kind", "group"), "blank at has-sponsor", lifecycle.Applicant},
	} {
		x := filled()
		c.do(x)
		p := f.Walk(x)
		if got := codes(p); got != c.want {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
		if got := form.MoveOf(p.Obstacles); got != c.move {
			t.Errorf("%s: %s must act, want %s", c.what, got, c.move)
		}
	}
}

// Source: semantics.md: answers no longer asked are set aside and come back.
func TestSetAsideAndBack(t *testing.T) {
	f, x := grants(t), filled()
	set(x, "peat-depth", "", "", "140")
	if s := f.Walk(x).Find("peat-depth"); s.Presence != condition.NotAsked {
		t.Errorf("peat depth of a shore: %s", s.Presence)
	}
	set(x, "repair-kind", "", "", "peat")
	if s := f.Walk(x).Find("peat-depth"); s.Presence != condition.Given || s.Value.Number.Num != 140 {
		t.Errorf("it did not come back: %+v", s)
	}
}

// Source: semantics.md, the table of uses: unknown while writing.
func TestWhileNotYetKnown(t *testing.T) {
	f, x := grants(t), filled()
	set(x, "repair-kind", "", "", "")
	p := f.Walk(x)
	if s := p.Find("peat-depth"); s.Asked != condition.Unknown || s.Presence != condition.Unsettled {
		t.Errorf("peat depth: asked %s, %s", s.Asked, s.Presence)
	}
	if s := p.Find("describe"); s.Limits.Words != 320 || s.Settled {
		t.Errorf("the loosest limit still possible is 320, got %d, settled %v", s.Limits.Words, s.Settled)
	}
	if got := codes(p); got != "blank at repair-kind" {
		t.Errorf("the deciding question is the obstacle: %s", got)
	}
}

func TestRules(t *testing.T) {
	f := grants(t)
	for _, c := range []struct {
		what string
		do   func(*form.Filled)
		want form.Outcome
	}{
		{"all met", func(*form.Filled) {}, form.Holds},
		{"leave not known: a person looks",
			func(x *form.Filled) { x.Answers[form.Place{Question: "land-leave"}] = form.Answer{Non: form.NotKnown} },
			form.Person},
		{"no leave", func(x *form.Filled) { set(x, "land-leave", "", "", "no") }, form.Fails},
		{"not answered", func(x *form.Filled) { set(x, "district", "", "", "") }, form.NotYet},
		{"one no settles it whatever is open", func(x *form.Filled) {
			set(x, "district", "", "", "")
			set(x, "paid-elsewhere", "", "", "yes")
		}, form.Fails},
		{"a group with a sponsor", func(x *form.Filled) {
			set(x, "applicant-kind", "", "", "group")
			set(x, "has-sponsor", "", "", "yes")
			set(x, "sponsor-name", "", "", "Voluntary Service")
		}, form.Holds},
		{"a person without one", func(x *form.Filled) {
			set(x, "applicant-kind", "", "", "person")
			set(x, "has-sponsor", "", "", "no")
		}, form.Fails},
	} {
		x := filled()
		c.do(x)
		if got := f.Walk(x).Verdict(); got != c.want {
			t.Errorf("%s: %s, want %s", c.what, got, c.want)
		}
	}
	var asked []form.Key
	for _, q := range f.CheckQuestions() {
		asked = append(asked, q.Key)
	}
	if want := []form.Key{"applicant-kind", "has-sponsor", "district", "land-leave",
		"paid-elsewhere"}; !slices.Equal(asked, want) {
		t.Errorf("the check asks %v, want %v", asked, want)
	}
}

// Every fault of a broken design is reported, with its place.
func TestCompileReportsEveryFault(t *testing.T) {
	d := pattern.Grants(settings())
	d.Zone, d.Currency = "Nowhere/Else", "XYZ"
	d.Sections[0].Questions[1].Key = "applicant-kind"
	d.Sections[1].Questions[0].Asked = condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "request"},
		Rel: condition.Is, Value: &condition.Value{Text: "x"}}}
	d.Criteria[0].Weight = 41
	_, err := form.Compile(d)
	if err == nil {
		t.Fatal("it was compiled")
	}
	for _, part := range []string{"not a time zone", "not a currency", `"applicant-kind" is used twice`,
		"question “Which district is the site in?”: “How much do you ask from us?” is asked later", "add up to 101"} {
		if !strings.Contains(err.Error(), part) {
			t.Errorf("not reported: %s\n%v", part, err)
		}
	}
}

func BenchmarkWalk60Questions(b *testing.B) {
	d := pattern.Grants(settings())
	extra := form.Section{Key: "extra", Label: "Extra"}
	for i := 0; i < 60-30; i++ {
		q := d.Sections[2].Questions[3]
		q.Key = form.Key("extra-" + string(rune('a'+i/26)) + string(rune('a'+i%26)))
		extra.Questions = append(extra.Questions, q)
	}
	d.Sections = append(d.Sections, extra)
	f, err := form.Compile(d)
	if err != nil {
		b.Fatal(err)
	}
	x := filled()
	for _, q := range extra.Questions {
		set(x, q.Key, "", "", strings.Repeat("reed bed ", 90))
	}
	b.ReportAllocs()
	for b.Loop() {
		if p := f.Walk(x); len(p.Obstacles) != 0 {
			b.Fatal(codes(p))
		}
	}
}

func FuzzWalkNeverPanics(f *testing.F) {
	compiled := grants(f)
	f.Add("peat", "64,000", "1 July 2027", "PO Box 1")
	f.Fuzz(func(t *testing.T, kind, sum, date, street string) {
		x := filled()
		set(x, "repair-kind", "", "", kind)
		set(x, "request", "", "", sum)
		set(x, "start", "", "", date)
		set(x, "post-address", "", "street", street)
		set(x, "budget", "r0001", form.ColCost, sum)
		compiled.Walk(x)
	})
}
