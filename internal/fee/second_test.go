package fee_test

import (
	"context"
	"strings"
	"testing"

	"ulvant/core/lifecycle"
	kept "ulvant/internal/fee"
	"ulvant/internal/platform/db"
)

// Letting somebody off and putting in a transfer are proposed by one and done when
// a second agrees; what could not be done is refused before it is proposed, and
// whoever proposed it can take it back and never agrees.
func TestNoActOfMoneyByOneAlone(t *testing.T) {
	h := open(t)
	second := h.Person("oskar@ostrel-trust.example", "Oskar Lind").ID
	c := h.sent("imre@isles.example")
	propose := func(act kept.WishAct, told kept.Told) func(context.Context, *db.Tx) error {
		return func(ctx context.Context, tx *db.Tx) error { return h.Fees.Propose(ctx, tx, c, act, told) }
	}
	answer := func(id int64, yes, releases bool) func(context.Context, *db.Tx) error {
		return func(ctx context.Context, tx *db.Tx) error { return h.Fees.Answer(ctx, tx, c, id, yes, releases) }
	}
	wishes := func() []kept.Wish {
		t.Helper()
		list, err := h.Fees.Wishes(t.Context(), h.DB, c.EntryID)
		if err != nil {
			t.Fatal(err)
		}
		return list
	}
	transfer := kept.Told{Amount: 6_000, Day: h.Clock.Now(), Reference: "AB 12"}
	h.refused(h.officer, "a transfer of nothing", propose(kept.WishPaidIn, kept.Told{Day: h.Clock.Now(),
		Reference: "AB 12"}))
	h.refused(h.officer, "letting off without a reason", propose(kept.WishLetOff, kept.Told{Reason: " "}))
	h.Held(h.officer, propose(kept.WishPaidIn, transfer))
	h.Drain()
	h.stands(c, "proposed", lifecycle.Owing, 0, 6_000)
	h.refused(h.officer, "proposing it twice", propose(kept.WishPaidIn, transfer))
	w := wishes()[0]
	if says := w.Says("EUR"); says != "to put in a transfer of €60, the bank’s reference “AB 12”" {
		t.Error(says)
	}
	if says := h.refused(h.officer, "agreeing with oneself", answer(w.ID, true, true)); !strings.Contains(says,
		"somebody else must agree") {
		t.Error(says)
	}
	h.refused(second, "agreeing without the role", answer(w.ID, true, false))
	h.refused(second, "refusing without the role", answer(w.ID, false, false))
	h.Held(second, answer(w.ID, true, true))
	h.Drain()
	h.stands(c, "agreed to", lifecycle.Eligible, 6_000, 0)
	h.refused(second, "agreeing twice", answer(w.ID, true, true))

	h.Held(h.officer, propose(kept.WishLetOff, kept.Told{Reason: "a school"}))
	h.Held(h.officer, answer(wishes()[0].ID, false, false)) // taken back, without a role that releases
	h.Act(h.officer, propose(kept.WishLetOff, kept.Told{Reason: "a school"}))
	h.Held(second, answer(wishes()[0].ID, false, true))
	h.Drain()
	h.stands(c, "not agreed to", lifecycle.Eligible, 6_000, 0)
	if h.mails("imre@isles.example", "a school") != 0 {
		t.Error("the applicant is told of what was not agreed to")
	}
	h.Act(h.officer, propose(kept.WishLetOff, kept.Told{Reason: "a school"}))
	tasks, err := h.Desk.FeeTasks(t.Context(), h.Clock.Now())
	if err != nil || len(tasks) != 1 || tasks[0].N != 1 {
		t.Errorf("what waits: %+v %v", tasks, err)
	}
	h.Act(second, answer(wishes()[0].ID, true, true))
	h.Drain()
	if h.mails("imre@isles.example", "a school") == 0 || len(wishes()) != 0 {
		t.Error("agreed to, the applicant is not told why")
	}
	if list, err := h.Desk.Wished(t.Context(), c.RoundID); err != nil || len(list) != 0 {
		t.Errorf("%v %v", list, err)
	}
}
