package desk_test

import (
	"context"
	"testing"

	"ulvant/internal/programtest"
	"ulvant/internal/round"
	"ulvant/internal/web/webtest"
)

// What an applicant sent besides is seen beside a case, in the rounds that whoever
// looks may see and in no others.
func TestBefore(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	id := h.OpenRound(webtest.Officer(h), nil)
	first, second := h.Sent("imre@corvoe.example"), h.Sent("imre@corvoe.example")
	h.Sent("una@corvoe.example")
	for _, c := range []struct {
		name   string
		rounds round.Only
		want   int
	}{{"all rounds", nil, 1}, {"this round", round.Only{id}, 1}, {"another round", round.Only{id + 1}, 0},
		{"none", round.Only{}, 0}} {
		got, err := h.Desk.BeforeOf(context.Background(), first.ID, first.LeadID, c.rounds, 10)
		if err != nil || len(got) != c.want || c.want == 1 && (got[0].Ref != second.Ref || got[0].Asked != 500_000 ||
			got[0].Given != 0 || got[0].Currency != "EUR") {
			t.Errorf("%s: %+v %v", c.name, got, err)
		}
	}
}
