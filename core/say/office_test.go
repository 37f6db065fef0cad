package say_test

import (
	"testing"

	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/say"
)

// On the office's pages a rule is said of anybody; what was looked up, and what
// somebody wrote, stays as it is.
func TestFoundForTheOffice(t *testing.T) {
	rule := form.Rule{Key: "land", Says: "There is leave to work on the land.", Yes: "You have leave.",
		No: "Get leave first.", Look: "You do not know yet."}
	f := &form.Form{Design: &form.Design{Rules: []form.Rule{rule, {Key: "bare", Yes: "You may."}}}}
	for _, c := range []struct {
		rule         form.Key
		reason, want string
	}{
		{"land", "You have leave.", "There is leave to work on the land."},
		{"land", "Get leave first. Looked up in the register.",
			"The rule: There is leave to work on the land. Looked up in the register."},
		{"land", "You do not know yet.", "The rule: There is leave to work on the land."},
		{"land", "What the rule needs is not in the application. Somebody must look.",
			"What the rule needs is not in the application. Somebody must look."},
		{"bare", "You may.", "You may."},
		{"files", "plan.pdf could not be opened.", "plan.pdf could not be opened."},
	} {
		if got := say.Found(f, c.rule, c.reason); got != c.want {
			t.Errorf("%s, %q: %q, want %q", c.rule, c.reason, got, c.want)
		}
	}
	for name, want := range map[string]string{"award": "an award", "section": "a section", "": "a "} {
		if got := phrase.WithArticle(name); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}
