package form_test

import (
	"testing"

	"ulvant/core/form"
)

// A voter makes every declaration, in its very words.
func TestUndeclared(t *testing.T) {
	v := &form.Vote{Declares: []string{"I am 14 or older.", "I live on Tarl."}}
	for _, c := range []struct {
		made []string
		want string
	}{
		{[]string{"I live on Tarl.", "I am 14 or older."}, ""}, {[]string{"I am 14 or older."}, "I live on Tarl."},
		{nil, "I am 14 or older."},
		{[]string{"I am 5.", "I live on Tarl."}, "I am 14 or older."},
	} {
		if got := v.Undeclared(c.made); got != c.want {
			t.Errorf("%q: %q, not %q", c.made, got, c.want)
		}
	}
	if got := (&form.Vote{}).Undeclared(nil); got != "" {
		t.Errorf("nothing is declared: %q", got)
	}
}
