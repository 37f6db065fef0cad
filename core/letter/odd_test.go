package letter

import (
	"slices"
	"strings"
	"testing"
)

// Letters of one act, as an officer would look through them.
func TestOdd(t *testing.T) {
	text := "Dear NAME,\n\nwe are sorry that “TITLE” (REF) is not among those we can give to this time.\n\nREASON\n\nPlease think of us again next spring.\n\nThe Trust"
	made := func(name, title, ref, reason string) Made {
		return Made{Kind: "not-awarded", Subject: "Our answer: " + title, Body: strings.NewReplacer("NAME", name, "TITLE",
			title, "REF", ref, "REASON", reason).Replace(text),
			Name: name, Values: []string{title, ref}, Reasoned: true, Reasons: reason}
	}
	plain := made("Ann Hart", "Reed beds", "SPR-1", "The gain was not shown.")
	other := made("Bo Hart", "Dunes", "SPR-2", "The costs could not be followed, and nobody looks after it.")
	nameless, unreasoned := made("", "Peat", "SPR-3", "So."), made("Cy Hart", "Peat", "SPR-4", "")
	changed := made("Dee Hart", "Oysters", "SPR-5", "So.")
	changed.Body = strings.Replace(changed.Body, "next spring", "in autumn", 1)
	field, tiny, huge := made("Flo Hart", "A", "SPR-6", "So."), made("Gus Hart", "B", "SPR-7", "So."),
		made("Hal Hart", "C", "SPR-8", strings.Repeat("x", 4000))
	field.Body += "{{amount}}"
	tiny.Body = "Dear Gus Hart,\nno."
	wrong := made("Ivy Hart", "D", "SPR-9", "So.")
	wrong.Name = "Ivo Hart"
	list := []Made{plain, other, nameless, unreasoned, changed, field, tiny, huge, wrong,
		{Kind: "awarded", Subject: "Yes", Body: strings.Repeat("Dear Jo, yes. ", 20), Name: "Jo"}}
	want := [][]string{nil, nil, {"it greets nobody by name"}, {"it gives no reason"},
		{"its text differs from the others"},
		{"a field of the text is not filled in", "its text differs from the others"},
		{"it is very short", "its text differs from the others"},
		{"it is very long"}, {"the name of whoever gets it does not stand in it", "its text differs from the others"}, nil}
	for i, got := range Odd(list) {
		if !slices.Equal(got, want[i]) && !(i == 2 && slices.Contains(got, want[2][0])) && !(i == 3 && slices.Contains(got,
			want[3][0])) {
			t.Errorf("letter %d: %q, want %q", i, got, want[i])
		}
	}
	if Odd(nil) == nil && len(Odd(nil)) != 0 {
		t.Error("no letters are odd")
	}
}

func TestSkeleton(t *testing.T) {
	if got := Skeleton("Reed beds at Reed (SPR-1)", []string{"Reed", "Reed beds", "", "SPR-1"}); got != "… at … (…)" {
		t.Errorf("%q", got)
	}
}
