package enquiry_test

import (
	"context"
	"errors"
	"strings"
	"testing"

	"ulvant/internal/enquiry"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/round"
)

func TestMain(m *testing.M) { programtest.Main(m) }

func TestAskingAndAnswering(t *testing.T) {
	h := programtest.New(t)
	officer := h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID
	id := h.OpenRound(officer, nil)
	imre := h.Person("imre@corvoe.example", "Imre Calloway").ID
	ann := h.Person("ann@corvoe.example", "Ann Hart").ID
	r, err := h.Rounds.ByID(t.Context(), h.DB, id)
	if err != nil {
		t.Fatal(err)
	}
	ask := func(by int64, text string) error {
		return h.Try(by, func(ctx context.Context, tx *db.Tx) error { return h.Enquiries.Ask(ctx, tx, r, text) })
	}
	for _, c := range []struct {
		name, text string
		ok         bool
	}{
		{"nothing", " \n ", false}, {"as long as it may be", strings.Repeat("a", 2000), true},
		{"too long", strings.Repeat("a", 2001), false},
		{"a question", "May the work begin in May? I am Imre of Corvoe.", true}, {"a third", "c", true},
		{"a fourth", "d", true},
		{"the fifth that waits", "e", true}, {"a sixth", "f", false},
	} {
		if err := ask(imre, c.text); (err == nil) != c.ok {
			t.Errorf("%s: %v", c.name, err)
		}
	}
	if err := ask(ann, "Somebody else's wait is not mine."); err != nil {
		t.Error(err)
	}
	list := func(of func(context.Context, db.Querier, int64) ([]enquiry.Enquiry, error)) []enquiry.Enquiry {
		t.Helper()
		out, err := of(t.Context(), h.DB, r.ID)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	all := list(h.Enquiries.Of)
	if len(all) != 6 || len(list(h.Enquiries.Public)) != 0 {
		t.Fatalf("%d in all", len(all))
	}
	answer := func(rd round.Round, id int64, question, text string, public bool) error {
		return h.Try(officer, func(ctx context.Context, tx *db.Tx) error {
			return h.Enquiries.Answer(ctx, tx, rd, id, question, text, public)
		})
	}
	second := all[1].ID
	other := r
	other.ID++
	for name, err := range map[string]error{"no answer": answer(r, second, "May it?", " ", true),
		"no question":        answer(r, second, "", "Yes.", true),
		"an answer too long": answer(r, second, "May it?", strings.Repeat("a", 4001), true)} {
		if err == nil {
			t.Errorf("%s was kept", name)
		}
	}
	if err := answer(other, second, "May it?", "Yes.", true); !errors.Is(err, enquiry.ErrNotFound) {
		t.Errorf("through another round: %v", err)
	}
	if err := answer(r, second, "May the work begin in May?", "In July.", true); err != nil {
		t.Fatal(err)
	}
	if err := ask(imre, "There is room for one again."); err != nil {
		t.Error(err)
	}
	public := list(h.Enquiries.Public)
	if len(public) != 1 || public[0].Text != "May the work begin in May?" || public[0].Answer != "In July." {
		t.Errorf("%+v", public)
	}
	if of := list(h.Enquiries.Of); of[len(of)-1].ID != second {
		t.Error("what is answered stands before what waits")
	}
	if err := answer(r, second, "May the work begin in May?", "In June.", false); err != nil {
		t.Fatal(err)
	}
	if len(list(h.Enquiries.Public)) != 0 {
		t.Error("it stays public though the answer was corrected to be private")
	}
	h.Drain()
	if waits, err := h.Desk.OpenEnquiries(t.Context()); err != nil || len(waits) != 1 || waits[0].N != 6 {
		t.Errorf("waiting for the office: %+v %v", waits, err)
	}
	mails, _ := h.Tray.List("imre@corvoe.example", 0, 10)
	if len(mails) != 2 || !strings.Contains(mails[0].Body, "In June.") || strings.Contains(mails[0].Body, "page too") ||
		!strings.Contains(mails[1].Body, "page too") {
		t.Errorf("%d mails: %+v", len(mails), mails)
	}
	mine, err := h.Enquiries.By(t.Context(), h.DB, r.ID, ann)
	if err != nil || len(mine) != 1 {
		t.Errorf("%d of Ann's, %v", len(mine), err)
	}
}
