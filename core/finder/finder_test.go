package finder

import (
	"testing"

	"ulvant/core/form"
	"ulvant/core/pattern"
)

func sum(n int64) *int64 { return &n }

// A visitor's wishes against a round of grants.
func TestFits(t *testing.T) {
	grants := Round{Kind: "grant", Least: sum(200000), Most: sum(8000000), Who: []string{"A registered body", "A school"}, Places: []string{"Hallin", "Corvoe"}}
	prize := Round{Kind: "competition"}
	for _, c := range []struct {
		what           string
		wish           Wish
		grants, prizes bool
	}{
		{"nothing in particular", Wish{}, true, true},
		{"a grant", Wish{Kind: "grant"}, true, false},
		{"for a school", Wish{Who: "A school"}, true, true},
		{"for one person: the prize is for anybody", Wish{Who: "One person"}, false, true},
		{"in Corvoe", Wish{Place: "Corvoe"}, true, true},
		{"in Tarl", Wish{Place: "Tarl"}, false, true},
		{"the least that can be asked", Wish{Sum: 200000}, true, true},
		{"a cent less", Wish{Sum: 199999}, false, true},
		{"the most", Wish{Sum: 8000000}, true, true},
		{"a cent more", Wish{Sum: 8000001}, false, true},
	} {
		if grants.Fits(c.wish) != c.grants || prize.Fits(c.wish) != c.prizes {
			t.Errorf("%s: grants %v, prize %v", c.what, grants.Fits(c.wish), prize.Fits(c.wish))
		}
	}
}

// What can be looked for is read off the patterns as an officer would say it.
func TestDescribe(t *testing.T) {
	d := pattern.Grants(pattern.Settings{Key: "shore", Name: "Shore", Prefix: "SPR", Zone: "Europe/Dublin", Currency: "EUR", Fund: 10_000_000, Least: 200_000, Most: 8_000_000, ReadersEach: 2})
	f, _ := form.Draft(d)
	r := Describe(f)
	if r.Kind != "grant" || *r.Least != 200_000 || *r.Most != 8_000_000 || r.Heading != "District" || len(r.Places) != 6 || len(r.Who) != 5 || r.Who[0] != "A registered body" {
		t.Errorf("%+v", r)
	}
	kinds, who, places := Choices([]Round{r, r, {Kind: "competition", Who: []string{"One person", "A studio"}}})
	if len(kinds) != 2 || len(who) != 6 || len(places) != 6 {
		t.Errorf("choices: %v %v %v", kinds, who, places)
	}
}

// One answer serves two rounds only when both ask the same of the same options.
func TestSame(t *testing.T) {
	q := form.Question{Kind: form.Choice, Label: "Who applies?", Options: []form.Option{{Key: "body", Label: "A body"}, {Key: "person", Label: "A person"}}}
	for _, c := range []struct {
		what   string
		change func(*form.Question)
		want   bool
	}{
		{"the same", func(*form.Question) {}, true},
		{"under another key", func(q *form.Question) { q.Key = "other" }, true},
		{"in other words", func(q *form.Question) { q.Label = "Who are you?" }, false},
		{"of another kind", func(q *form.Question) { q.Kind = form.Several }, false},
		{"with an option fewer", func(q *form.Question) { q.Options = q.Options[:1] }, false},
	} {
		other := q
		c.change(&other)
		if Same(&q, &other) != c.want {
			t.Errorf("%s: %v", c.what, !c.want)
		}
	}
}
