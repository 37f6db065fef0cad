package refusal

import (
	"errors"
	"fmt"
	"testing"
)

func TestOf(t *testing.T) {
	closed := New("this round has closed").But("write to the office")
	for _, c := range []struct {
		name     string
		err      error
		says     string
		ok       bool
		canMend  bool
		standing Kind
	}{
		{"as it is", closed, "This round has closed; write to the office.", true, false, KindBarred},
		{"wrapped", fmt.Errorf("SPR-1: %w", closed), "This round has closed; write to the office.", true, false, KindBarred},
		{"joined to one of ours", errors.Join(errors.New("dial tcp"), Newf("it takes %d", 3)), "It takes 3.", true, false,
			KindBarred},
		{"what was typed", Unfit("“x” is not a date"), "“X” is not a date.", true, true, KindUnfit},
		{"in a field", In("email", "This is not a mail address."), "This is not a mail address.", true, true, KindUnfit},
		{"not there", Missing("there is no such round"), "There is no such round.", true, false, KindMissing},
		{"run out", Over("this link has run out"), "This link has run out.", true, false, KindOver},
		{"ours", errors.New("pq: relation does not exist"), "", false, false, KindBarred},
		{"none", nil, "", false, false, KindBarred},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, ok := Of(c.err)
			if r.Sentence() != c.says || ok != c.ok || r.Kind != c.standing {
				t.Errorf("%q %v %v", r.Sentence(), ok, r.Kind)
			}
			var unfit Refusal
			if AsUnfit(c.err, &unfit) != c.canMend || c.canMend != (unfit == r && r != Refusal{}) {
				t.Errorf("can be mended on the page: %v", !c.canMend)
			}
		})
	}
	if !errors.Is(fmt.Errorf("x: %w", closed), closed) || errors.Is(closed, New("this round has closed")) {
		t.Error("a refusal is told from others by its words")
	}
}

func TestSentence(t *testing.T) {
	for says, want := range map[string]string{"": "", "it is open": "It is open.", "It is open.": "It is open.",
		"is it open?": "Is it open?", "“it is.”": "“It is.”", "“it” is": "“It” is."} {
		if got := Sentence(says); got != want {
			t.Errorf("%q reads %q, want %q", says, got, want)
		}
	}
}
