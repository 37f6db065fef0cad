package form_test

import (
	"slices"
	"testing"

	"ulvant/core/form"
)

// A fund of 100 with two streams, one of which has 30 of its own.
func TestFunds(t *testing.T) {
	d := &form.Design{Fund: 100, Streams: []form.Stream{{Key: "new", Label: "New", Fund: 30}, {Key: "old", Label: "Old"}}}
	if got := d.Funds(); !slices.Equal(got, []form.Fund{{Label: "The fund", Money: 70},
		{Stream: "new", Label: "New", Money: 30}}) {
		t.Errorf("%+v", got)
	}
	d.Streams[1].Fund = 90
	if got := d.Funds(); got[0].Money != 0 || len(got) != 3 {
		t.Errorf("streams hold more than there is: %+v", got)
	}
}
