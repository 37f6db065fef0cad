package say_test

import (
	"testing"

	"ulvant/core/say"
	"ulvant/core/slot"
)

func TestTemplates(t *testing.T) {
	for _, c := range []struct {
		files []say.CameBack
		want  string
	}{
		{nil, ""},
		{[]say.CameBack{{"a.ods", slot.Current, 2, 2}}, ""},
		{[]say.CameBack{{"a.ods", slot.Older, 1, 3}, {"b.ods", slot.Current, 3, 3}, {"c.pdf", slot.Unrecognised, 0, 0}},
			"a.ods is filled in on version 1 of the template; version 3 is asked for. c.pdf does not carry the mark of the " +
				"template: it may be a scan, a print, or another file. Open it and look whether it will do."},
	} {
		if got := say.Templates(c.files); got != c.want {
			t.Errorf("%v:\n %q, want\n %q", c.files, got, c.want)
		}
	}
	for _, c := range []struct {
		x       say.CameBack
		changed string
		want    string
	}{
		{say.CameBack{Came: slot.Current, Version: 2, Last: 2}, "", ""},
		{say.CameBack{Came: slot.Older, Version: 1, Last: 2}, "a column for partners.",
			"This is version 1 of “Costs”. Version 2 is asked for now: a column for partners. Fill in the new one, or the office will look at this."},
		{say.CameBack{Came: slot.Unrecognised}, "",
			"This does not look like “Costs” filled in. If it is a scan of it, that is fine: the office will look at it."},
	} {
		if got := say.OldTemplate(c.x, "Costs", c.changed); got != c.want {
			t.Errorf("%+v:\n %q, want\n %q", c.x, got, c.want)
		}
	}
}

// As it is read by whoever has a draft.
func TestGuidanceChanged(t *testing.T) {
	for _, c := range []struct {
		version  int
		changed  string
		template bool
		body     string
	}{
		{1, "", false, "Dear Ada,\n\nThere is a new file to read beside Shores 2027: “Notes”.\n\nYour draft is at x\n"},
		{1, "", true, "Dear Ada,\n\nThere is a template to fill in for Shores 2027: “Notes”.\n\nYour draft is at x\n"},
		{2, "a column for partners", true,
			"Dear Ada,\n\nVersion 2 has taken the place of version 1 beside Shores 2027: “Notes”.\n\n" +
				"What is different: a column for partners.\n\nIf you have filled in the version before, please fill in the new one.\n\nYour draft is at x\n"},
	} {
		subject, body := say.GuidanceChanged("Ada", "Shores 2027", "Notes", c.version, c.changed, c.template, "x")
		if subject != "Changed for Shores 2027: Notes" || body != c.body {
			t.Errorf("%q\n%q, want\n%q", subject, body, c.body)
		}
	}
}
