package say_test

import (
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/core/slot"
)

func TestSamePaper(t *testing.T) {
	f, _ := form.Draft(&form.Design{Currency: "EUR", Zone: "Europe/Dublin", Sections: []form.Section{{Key: "s",
		Questions: []form.Question{
			{Key: "accounts", Label: "Accounts", Kind: form.File,
				Limits: form.Cases[form.Limits]{Else: form.Limits{Slot: &slot.Limits{}}}}}}}})
	here := &form.Path{Questions: []form.QuestionState{{Key: "accounts", Asked: condition.Yes}}}
	file := map[form.Key][]slot.File{"accounts": {{Name: "a.pdf"}, {Name: "b.pdf"}}}
	for _, c := range []struct {
		limits *slot.Limits
		path   *form.Path
		files  map[form.Key][]slot.File
		want   string
	}{
		{nil, here, nil, ""},
		{&slot.Limits{}, here, file, ""},
		{&slot.Limits{Same: "accounts"}, here, nil,
			"The same paper as “Accounts” asks for: put it in there, and it counts here too."},
		{&slot.Limits{Same: "accounts"}, here, file,
			"Crossed off by a.pdf and b.pdf, which is in “Accounts”. Put in another here only if it should differ."},
		{&slot.Limits{Same: "accounts"}, &form.Path{}, nil, ""},
	} {
		if got := say.SamePaper(f, &form.Filled{Files: c.files}, c.path, c.limits); got != c.want {
			t.Errorf("%+v: %q, want %q", c.limits, got, c.want)
		}
	}
}

func TestUnopened(t *testing.T) {
	p := &form.Path{Questions: []form.QuestionState{{Key: "plan", Limits: form.Limits{Slot: &slot.Limits{TypeLeast: 11}}},
		{Key: "notes"}}}
	pdf := func(name string, state slot.State, size float64) slot.File {
		return slot.File{Name: name, State: state, Facts: slot.Facts{Kind: slot.PDF, TypeLeast: size}}
	}
	for _, c := range []struct {
		files map[form.Key][]slot.File
		want  string
	}{
		{nil, ""},
		{map[form.Key][]slot.File{"plan": {pdf("a.pdf", slot.Ready, 11)}, "notes": {pdf("b.pdf", slot.Ready, 0)}}, ""},
		{map[form.Key][]slot.File{"plan": {pdf("a.pdf", slot.Ready, 0)}, "notes": {pdf("b.pdf", slot.Inspecting, 0)}},
			"The type of a.pdf could not be measured; at least 11 points are wanted. b.pdf has not been opened yet or could not be. Open it and look."},
	} {
		if got := say.Unopened(&form.Filled{Files: c.files}, p); got != c.want {
			t.Errorf("%q, want %q", got, c.want)
		}
	}
}
