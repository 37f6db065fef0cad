package refusal

import (
	"errors"
	"fmt"
	"testing"
)

func TestSentence(t *testing.T) {
	closed := New("this round has closed")
	for _, c := range []struct {
		err  error
		says string
		ok   bool
	}{
		{closed, "this round has closed", true},
		{fmt.Errorf("SPR-1: %w", closed), "this round has closed", true},
		{errors.Join(errors.New("dial tcp"), Newf("it takes %d", 3)), "it takes 3", true},
		{errors.New("pq: relation does not exist"), "", false},
		{nil, "", false},
	} {
		if says, ok := Sentence(c.err); says != c.says || ok != c.ok {
			t.Errorf("%v: %q %v", c.err, says, ok)
		}
	}
	if !errors.Is(fmt.Errorf("x: %w", closed), closed) {
		t.Error("a wrapped refusal is not itself")
	}
}
