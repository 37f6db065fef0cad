package finder

import (
	"slices"
	"testing"

	"ulvant/core/form"
	"ulvant/core/pattern"
)

func sum(n int64) *int64 { return &n }

// A visitor's wishes against a round of grants.
func TestFits(t *testing.T) {
	grants := Round{Kind: "grant", Least: sum(200000), Most: sum(8000000), Who: []string{"A registered body", "A school"},
		Places: []string{"Hallin", "Corvoe"}}
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

func shore() *form.Design {
	return pattern.Grants(pattern.Settings{Key: "shore", Name: "Shore", Prefix: "SPR", Zone: "Europe/Dublin",
		Currency: "EUR", Fund: 10_000_000, Least: 200_000, Most: 8_000_000, ReadersEach: 2})
}

// What can be looked for is read off the patterns as an officer would say it.
func TestDescribe(t *testing.T) {
	f, _ := form.Draft(shore())
	r := Describe(f)
	if r.Kind != "grant" || *r.Least != 200_000 || *r.Most != 8_000_000 || r.Heading != "District" ||
		len(r.Places) != 6 || len(r.Who) != 5 || r.Who[0] != "A registered body" {
		t.Errorf("%+v", r)
	}
	kinds, who, places := Choices([]Round{r, r, {Kind: "competition", Who: []string{"One person", "A studio"}}})
	if len(kinds) != 2 || len(who) != 6 || len(places) != 6 {
		t.Errorf("choices: %v %v %v", kinds, who, places)
	}
}

// One answer serves two rounds only when both ask the same of the same options.
func TestSame(t *testing.T) {
	q := form.Question{Kind: form.Choice, Label: "Who applies?",
		Options: []form.Option{{Key: "body", Label: "A body"}, {Key: "person", Label: "A person"}}}
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

// What several rounds ask alike is asked once, first what most of them ask; a key
// that stands for something else is left to that round's own check.
func TestShare(t *testing.T) {
	compile := func(change func(*form.Design)) *form.Form {
		d := shore()
		change(d)
		f, _ := form.Draft(d)
		return f
	}
	rename := func(key form.Key, label string) func(*form.Design) {
		return func(d *form.Design) {
			for i := range d.Sections {
				for j := range d.Sections[i].Questions {
					if q := &d.Sections[i].Questions[j]; q.Key == key {
						q.Label = label
					}
				}
			}
		}
	}
	same := func(*form.Design) {}
	shared, own := Share([]*form.Form{compile(same), compile(rename("district", "Which isle?")),
		compile(rename("land-leave", "May you work there?"))})
	got := map[form.Key][]int{}
	var order []form.Key
	for _, s := range shared {
		got[s.Key] = s.Rounds
		order = append(order, s.Key)
	}
	for key, want := range map[form.Key][]int{"applicant-kind": {0, 1, 2}, "district": {0, 2}, "land-leave": {0, 1},
		"paid-elsewhere": {0, 1, 2}} {
		if !slices.Equal(got[key], want) {
			t.Errorf("%s is shared by %v, want %v", key, got[key], want)
		}
	}
	if want := []form.Key{"applicant-kind", "has-sponsor", "paid-elsewhere", "district",
		"land-leave"}; !slices.Equal(order, want) {
		t.Errorf("asked in the order %v, want %v", order, want)
	}
	if len(own[0]) != 0 || !slices.Equal(own[1], []string{"Which isle?"}) ||
		!slices.Equal(own[2], []string{"May you work there?"}) {
		t.Errorf("left to their own checks: %q", own)
	}
}
