package profile

import (
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
)

// whole is an organisation that lacks nothing.
func whole() Facts {
	return Facts{
		Form:     Society,
		Numbers:  []Number{{"lei", "0000OSTRELISLES00184"}},
		Seat:     Address{"3 Peat Lane", "Tarl", "OI9 1RT"},
		Phone:    "+353 1 555 0142",
		Contacts: []Contact{{Name: "Ann Hart", Email: "ann@tarl.example"}, {Name: "Bo Hart", Email: "bo@tarl.example"}},
	}
}

// The number is the demo's own; its check digits are worked out by ISO 7064
// MOD 97-10, as ISO 17442 has them.
func number(t *testing.T) string {
	t.Helper()
	for n := range 98 {
		v := "0000OSTRELISLES001" + string(rune('0'+n/10)) + string(rune('0'+n%10))
		if CheckNumber(Number{"lei", v}) == "" {
			return v
		}
	}
	t.Fatal("no check digits fit")
	return ""
}

func TestWhatAnOrganisationLacks(t *testing.T) {
	good := number(t)
	papers := map[string]Shown{"statutes": {There: true, Good: true}, "extract": {There: true, Good: true},
		"accounts": {There: true}}
	for _, c := range []struct {
		what      string
		change    func(*Facts)
		confirmed int
		lacks     []Step
	}{
		{"its legal form", func(f *Facts) { f.Form = "" }, 2, []Step{Papers}},
		{"a form that there is not", func(f *Facts) { f.Form = "empire" }, 2, []Step{Papers}},
		{"a paper of another form", func(f *Facts) { f.Form = Group }, 2, []Step{Papers}},
		{"papers that have run out", func(f *Facts) { f.Form = Charity }, 2, []Step{Papers}},
		{"a public body shows none", func(f *Facts) { f.Form = Public }, 2, nil},
		{"nothing", func(*Facts) {}, 2, nil},
		{"one officer has confirmed", func(*Facts) {}, 1, []Step{Officers}},
		{"no number", func(f *Facts) { f.Numbers = nil }, 2, []Step{Numbers}},
		{"a slip of the pen in the number", func(f *Facts) { f.Numbers = []Number{{"lei", good[:17] + "2" + good[18:]}} }, 2,
			[]Step{Numbers}},
		{"a register nobody knows", func(f *Facts) { f.Numbers = []Number{{"moon", "1"}} }, 2, []Step{Numbers}},
		{"a box for a seat", func(f *Facts) { f.Seat.Street = "PO Box 12" }, 2, []Step{Addresses}},
		{"letters may go to a box", func(f *Facts) { f.Post = Address{"PO Box 12", "Tarl", "OI9 1RT"} }, 2, nil},
		{"one contact", func(f *Facts) { f.Contacts = f.Contacts[:1] }, 2, []Step{Contacts}},
		{"one contact twice", func(f *Facts) { f.Contacts[1].Email = "Ann@tarl.example" }, 2, []Step{Contacts}},
	} {
		f := whole()
		f.Numbers[0].Value = good
		c.change(&f)
		var got []Step
		for _, l := range Lacks(Body, "Tarl Moor Society", f, papers, c.confirmed, 2) {
			if !slices.Contains(got, l.Step) {
				got = append(got, l.Step)
			}
		}
		if !slices.Equal(got, c.lacks) {
			t.Errorf("%s: %v, want %v", c.what, got, c.lacks)
		}
	}
	if l := Lacks(Person, "Ann Hart", Facts{Seat: Address{Street: "1 Quay", Town: "Corvoe"}}, nil, 0, 2); len(l) != 0 {
		t.Errorf("a person lacks %v", l)
	}
}

// What a register says, read as an officer would.
func TestJudge(t *testing.T) {
	for _, c := range []struct {
		name, legal, register string
		struck                bool
		want                  Finding
	}{
		{"Tarl Moor Society", "", "TARL MOOR SOCIETY", false, Found},
		{"Port Users' Association", "", "Port Users’ Association", false, Found},
		{"Tarl Moor", "Tarl Moor Society, Ltd.", "TARL MOOR SOCIETY LTD", false, Found},
		{"Tarl Moor", "", "Tarl Moor Society", false, OtherName},
		{"Tarl Moor", "", "Tarl Moor", true, StruckOff},
	} {
		if got := Judge(c.name, c.legal, c.register, c.struck); got != c.want {
			t.Errorf("%q as %q: %s, want %s", c.register, c.name, got, c.want)
		}
	}
}

// A profile fills the questions that say so, a difference is found, and either
// side can be put right from the other.
func TestFillsAndDiffers(t *testing.T) {
	f := &form.Form{Design: &form.Design{Sections: []form.Section{{Questions: []form.Question{
		{Key: "called", Kind: form.Short, Profile: form.ProfileName}, {Key: "phone", Kind: form.Phone,
			Profile: form.ProfilePhone},
		{Key: "post", Kind: form.Address, Profile: form.ProfilePost}, {Key: "work", Kind: form.Long}}}}}}
	facts := whole()
	got := Filled(f, "Tarl Moor Society", facts)
	street, name := form.Place{Question: "post", Column: "street"}, form.Place{Question: "called"}
	if len(got) != 5 || got[name].Raw != "Tarl Moor Society" || got[street].Raw != "3 Peat Lane" {
		t.Errorf("filled: %v", got)
	}
	if gaps := Gaps(f, "Tarl Moor Society", Facts{Phone: "1"}); !slices.Equal(gaps,
		[]Field{FieldPostcode, FieldStreet, FieldTown}) {
		t.Errorf("gaps: %v", gaps)
	}
	got[street] = form.Answer{Raw: "4 Peat Lane"}
	got[name] = form.Answer{Raw: "tarl moor society"}
	diff := Differences(f, "Tarl Moor Society", facts, got)
	if len(diff) != 1 || diff[0].Place != street || diff[0].Profile != "3 Peat Lane" ||
		diff[0].Application != "4 Peat Lane" {
		t.Fatalf("differences: %+v", diff)
	}
	got[form.Place{Question: "phone"}] = form.Answer{Raw: "(01) 555 0142"} // the same number, typed as at home
	if d := Differences(f, "Tarl Moor Society", facts, got); len(d) != 1 {
		t.Errorf("a phone number typed otherwise: %+v", d)
	}
	n, after := facts.With("Tarl Moor Society", diff[0].Field, diff[0].Application)
	if d := Differences(f, n, after, got); len(d) != 0 {
		t.Errorf("after it was put into the profile: %+v", d)
	}
}

// A sponsoring body is said by itself: it fills, nobody without one lacks it,
// and an application cannot put it right.
func TestSponsoringBody(t *testing.T) {
	f := &form.Form{Design: &form.Design{Sections: []form.Section{{Questions: []form.Question{{Key: "held",
		Kind: form.YesNo, Profile: form.ProfileHolder}, {Key: "by", Kind: form.Short, Profile: form.ProfileHolder}}}}}}
	held, by := form.Place{Question: "held"}, form.Place{Question: "by"}
	if got := Filled(f, "Cy", Facts{}); len(got) != 0 {
		t.Errorf("without one: %v", got)
	}
	if gaps := Gaps(f, "Cy", Facts{}); len(gaps) != 0 {
		t.Errorf("gaps: %v", gaps)
	}
	facts := Facts{Sponsor: "Tarl Moor Society"}
	if got := Filled(f, "Cy", facts); got[held].Raw != "yes" || got[by].Raw != "Tarl Moor Society" {
		t.Errorf("with one: %v", got)
	}
	diff := Differences(f, "Cy", facts, map[form.Place]form.Answer{held: {Raw: "no"}, by: {Raw: "The Guild"}})
	if len(diff) != 2 || !diff[0].Field.Others() || !diff[1].Field.Others() {
		t.Errorf("differences: %+v", diff)
	}
	if _, after := facts.With("Cy", FieldSponsor, "The Guild"); after.Sponsor != "Tarl Moor Society" {
		t.Errorf("written by an application: %+v", after)
	}
}

func TestFilledIn(t *testing.T) {
	f := &form.Form{Design: &form.Design{Sections: []form.Section{{Questions: []form.Question{{Key: "born",
		Kind: form.Date, Profile: form.ProfileBorn}, {Key: "phone", Kind: form.Phone, Profile: form.ProfilePhone}}}}}}
	const day = 24 * time.Hour
	for _, c := range []struct {
		facts Facts
		age   time.Duration
		want  string
	}{
		{Facts{Born: "1 July 2007", Phone: "+353 1 555 0142"}, 364 * day, "Filled in from the profile of Juno Hart."},
		{Facts{Phone: "+353 1 555 0142"}, day,
			"The profile of Juno Hart filled it in, except for what it does not have: date of birth."},
		{Facts{}, 0, "The profile of Juno Hart filled it in, except for what it does not have: date of birth, phone."},
		{Facts{Born: "1 July 2007", Phone: "+353 1 555 0142"}, 366 * day,
			"The profile of Juno Hart was last looked at more than a year ago: look through what it filled in."},
	} {
		if got := FilledIn(f, "Juno Hart", c.facts, c.age); got != c.want {
			t.Errorf("%q, want %q", got, c.want)
		}
	}
}

// A person's date of birth fills the question that asks for it, and is the same
// date however it is typed.
func TestDateOfBirth(t *testing.T) {
	f := &form.Form{Design: &form.Design{Sections: []form.Section{{Questions: []form.Question{{Key: "born",
		Kind: form.Date, Profile: form.ProfileBorn}}}}}}
	at := form.Place{Question: "born"}
	facts := Facts{Born: "1 July 2007", Seat: Address{Street: "4 Quay Row", Town: "Corvoe"}}
	got := Filled(f, "Juno Hart", facts)
	if got[at].Raw != "1 July 2007" {
		t.Errorf("filled: %v", got)
	}
	for typed, differs := range map[string]int{"1 July 2007": 0, "2007-07-01": 0, "1 July 2008": 1, "last summer": 1,
		"": 0} {
		if d := Differences(f, "Juno Hart", facts, map[form.Place]form.Answer{at: {Raw: typed}}); len(d) != differs {
			t.Errorf("%q: %+v", typed, d)
		}
	}
	if _, after := facts.With("Juno Hart", FieldBorn, "2 July 2007"); after.Born != "2 July 2007" ||
		facts.Born != "1 July 2007" {
		t.Errorf("put right: %+v", after)
	}
	for born, lacks := range map[string]int{"": 0, "1 July 2007": 0, "soon": 1} {
		facts.Born = born
		if l := Lacks(Person, "Juno Hart", facts, nil, 0, 0); len(l) != lacks {
			t.Errorf("born %q: %v", born, l)
		}
	}
}

// Every field that is set reads back, wherever it is kept, and leaves the others
// and the facts it was taken from as they were.
func TestWithReadsBack(t *testing.T) {
	legal := Facts{Legal: "Corvoe Common Ltd", Numbers: []Number{{Scheme: "x", Value: "1"}},
		Contacts: []Contact{{Name: "Ann", Email: "ann@x.example"}}}
	for name, facts := range map[string]Facts{"with all": legal, "with nothing": {}} {
		for _, field := range []Field{FieldName, FieldNumber, FieldStreet, FieldTown, FieldPostcode, FieldPhone, FieldBorn,
			FieldMail} {
			called, got := facts.With("Corvoe", field, "new")
			has := name == "with all" || field != FieldNumber && field != FieldMail // what has no place yet takes nothing
			if v := got.Of(called, field); (v == "new") != has {
				t.Errorf("%s: %s reads %q", name, field, v)
			}
			for _, other := range []Field{FieldName, FieldNumber, FieldStreet, FieldTown, FieldPostcode, FieldPhone, FieldBorn,
				FieldMail} {
				if other != field && got.Of(called, other) != facts.Of("Corvoe", other) {
					t.Errorf("%s: setting %s changed %s", name, field, other)
				}
			}
		}
	}
	if legal.Numbers[0].Value != "1" || legal.Contacts[0].Email != "ann@x.example" {
		t.Error("the facts it was taken from were changed")
	}
	post := legal
	post.Post.Street = "Box 4"
	if _, got := post.With("", FieldStreet, "new"); got.Post.Street != "new" || got.Seat.Street != "" {
		t.Errorf("where letters go and where it is: %+v %+v", got.Post, got.Seat)
	}
}

// What a checker must look at of whoever applies.
func TestUnknown(t *testing.T) {
	for _, c := range []struct {
		kind  Kind
		state State
		says  string
	}{{Person, Making, ""}, {Body, Known, ""}, {Body, Waiting, "waits to be looked over"}, {Body, SentBack,
		"was sent back"}, {Body, Making, "was never handed"}} {
		got := Unknown(c.kind, "Corvoe", c.state)
		if (got == "") != (c.says == "") || !strings.Contains(got, c.says) {
			t.Errorf("%s, %s: %q", c.kind, c.state, got)
		}
	}
}
