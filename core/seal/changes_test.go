package seal

import (
	"testing"

	"ulvant/core/form"
)

// What differs between what was sent and what came back, by question.
func TestChanges(t *testing.T) {
	f := &form.Form{Design: &form.Design{Sections: []form.Section{{Questions: []form.Question{{Key: "title"},
		{Key: "sum"}, {Key: "plan"}, {Key: "note"}}}}}}
	answer := func(q form.Key, raw string) Answer { return Answer{Place: form.Place{Question: q}, Raw: raw} }
	was := &Document{Answers: []Answer{answer("title", "Reed"), answer("sum", "9000"), answer("note", "x")},
		Files: []File{{Slot: "plan", Name: "a.pdf", SHA256: "aa"}}}
	is := &Document{Answers: []Answer{answer("title", "Reed"), answer("sum", "8000")},
		Files: []File{{Slot: "plan", Name: "renamed.pdf", SHA256: "aa"}, {Slot: "plan", Name: "b.pdf", SHA256: "bb"}}}
	got := Changes(f, was, is)
	want := []form.Key{"sum", "plan", "note"}
	if len(got) != len(want) {
		t.Fatalf("%+v", got)
	}
	for i, k := range want {
		if got[i].Question != k {
			t.Errorf("change %d is of %s, want %s", i, got[i].Question, k)
		}
	}
	if p := got[1]; len(p.Gone) != 0 || len(p.Come) != 1 || p.Come[0].Name != "b.pdf" {
		t.Errorf("files: %+v", p)
	}
	if again := Changes(f, is, is); len(again) != 0 {
		t.Errorf("the same again differs: %+v", again)
	}
}

// The same file moved to another slot is gone from one and come to the other.
func TestAFileInAnotherSlot(t *testing.T) {
	f := &form.Form{Design: &form.Design{Sections: []form.Section{{Questions: []form.Question{{Key: "plan"},
		{Key: "photo"}}}}}}
	was := &Document{Files: []File{{Slot: "plan", Name: "a.pdf", SHA256: "aa"}}}
	is := &Document{Files: []File{{Slot: "photo", Name: "a.pdf", SHA256: "aa"}}}
	got := Changes(f, was, is)
	if len(got) != 2 || len(got[0].Gone) != 1 || len(got[0].Come) != 0 || len(got[1].Gone) != 0 || len(got[1].Come) != 1 {
		t.Errorf("%+v", got)
	}
}
