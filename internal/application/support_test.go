package application_test

import (
	"context"
	"errors"
	"strings"
	"testing"

	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// Support is asked for in a few words, three times at most while nothing was done, and
// whoever asked reads what was.
func TestAskingForSupport(t *testing.T) {
	h, lead, c := programtest.Opened(t, nil)
	officer := programtest.MustAccount(t, h.DB, "neda@ostrel-trust.example")
	ask := func(text string) error {
		return h.Try(lead, func(ctx context.Context, tx *db.Tx) error { return h.Cases.AskSupport(ctx, tx, c, text) })
	}
	end := func(id int64, note string) error {
		return h.Try(officer, func(ctx context.Context, tx *db.Tx) error { return h.Cases.EndSupport(ctx, tx, c, id, note) })
	}
	for _, x := range []struct {
		what, text string
		taken      bool
	}{
		{"nothing", " \n", false}, {"too long", strings.Repeat("x", 2001), false},
		{"as long as it may be", strings.Repeat("x", 2000), true}, {"large print", "In large print, please.", true},
		{"a call", "Could somebody call me?", true}, {"a fourth", "And a fourth?", false},
	} {
		if _, said := refusal.Of(ask(x.text)); said == x.taken {
			t.Errorf("%s: taken %t", x.what, !said)
		}
	}
	list, err := h.Cases.Supports(t.Context(), h.DB, c)
	if err != nil || len(list) != 3 || list[0].Text != "Could somebody call me?" || list[0].By != "Imre Calloway" {
		t.Fatalf("%+v %v", list, err)
	}
	for what, err := range map[string]error{"without a word": end(list[0].ID, " "),
		"in too many": end(list[0].ID, strings.Repeat("x", 2001)), "one that is none": end(list[0].ID+99, "Called.")} {
		if _, said := refusal.Of(err); !said {
			t.Errorf("it ends %s: %v", what, err)
		}
	}
	if err := end(list[0].ID, "We called on Tuesday."); err != nil {
		t.Fatal(err)
	}
	if _, said := refusal.Of(end(list[0].ID, "Twice.")); !said {
		t.Error("it ends twice")
	}
	if err := ask("There is room for one more."); err != nil {
		t.Error(err)
	}
	for verb, want := range map[string]int{"asked-for-support": 4, "gave-support": 1} {
		var n int
		if err := h.DB.Get(&n, `SELECT count(*) FROM trail WHERE verb = $1`, verb); err != nil || n != want {
			t.Errorf("the trail has %s %d times, want %d, %v", verb, n, want, err)
		}
	}
	h.Drain()
	mails, _ := h.Tray.List("imre@corvoe.example", 0, 100)
	n := 0
	for _, m := range mails {
		if strings.HasPrefix(m.Subject, "You asked for support: ") {
			n++
		}
	}
	if n != 1 {
		t.Errorf("%d mails", n)
	}
}

// One invitation to an address is open at a time; it ends once, and gives nothing by itself.
func TestInvitationsEndOnce(t *testing.T) {
	h, lead, c := programtest.Opened(t, nil)
	invite := func(email string) (id int64, fresh bool) {
		h.Held(lead, func(ctx context.Context, tx *db.Tx) (err error) {
			id, fresh, err = h.Cases.Invite(ctx, tx, application.Invitation{Application: c.ID, Email: email, Name: "Wyn",
				Part: application.ToLead, AskedBy: lead})
			return err
		})
		return id, fresh
	}
	end := func(id int64, state string) error {
		return h.Try(lead, func(ctx context.Context, tx *db.Tx) error { return h.Cases.EndInvitation(ctx, tx, id, state, 0) })
	}
	first, fresh := invite("wyn@tarl.example")
	if _, again := invite("wyn@tarl.example"); !fresh || again {
		t.Errorf("fresh %t, again %t", fresh, again)
	}
	other, _ := invite("ewan@tarl.example")
	for id, state := range map[int64]string{first: application.InvitationDeclined,
		other: application.InvitationTakenBack} {
		if err := end(id, state); err != nil {
			t.Fatal(err)
		}
		if err := end(id, application.InvitationAccepted); !errors.Is(err, application.ErrNotFound) {
			t.Errorf("after it was %s: %v", state, err)
		}
		if i, err := h.Cases.Invitation(t.Context(), h.DB, id); err != nil || i.State != state {
			t.Errorf("%+v %v", i, err)
		}
	}
	if list, err := h.Cases.Invitations(t.Context(), h.DB, c.ID); err != nil || len(list) != 1 || list[0].ID != first {
		t.Errorf("open or declined: %+v %v", list, err)
	}
	if _, fresh := invite("wyn@tarl.example"); !fresh {
		t.Error("whoever declined cannot be asked again")
	}
	if _, err := h.Cases.Invitation(t.Context(), h.DB, 999_999); !errors.Is(err, application.ErrNotFound) {
		t.Errorf("one that is none: %v", err)
	}
}

// Others are what somebody leads beside a case that was sent and is not gone; what the
// office knows of a case is worked out for those sent before it was asked for.
func TestOthersAndWhatIsKnown(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "9,000", "Bo": "7,000"})
	ann := p.Of["Ann"]
	others := func(apart int64) (round, programme int) {
		t.Helper()
		o, err := p.Cases.Others(t.Context(), p.DB, ann.LeadID, p.Round.ID, apart, p.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		return o.Round, o.Programme
	}
	if r, g := others(0); r != 1 || g != 1 {
		t.Errorf("one was sent: %d, %d", r, g)
	}
	if r, g := others(ann.ID); r != 0 || g != 0 {
		t.Errorf("beside itself: %d, %d", r, g)
	}
	p.Draft("ann@corvoe.example")
	if r, g := others(0); r != 1 || g != 1 {
		t.Errorf("a draft is not sent: %d, %d", r, g)
	}
	var was string
	if err := p.DB.Get(&was, `SELECT string_agg(facts::text, ' ' ORDER BY entry_id) FROM known`); err != nil || was == "" {
		t.Fatal(was, err)
	}
	for _, sql := range []string{`DELETE FROM known`, `UPDATE standing SET known = false`} {
		if _, err := p.DB.Exec(sql); err != nil {
			t.Fatal(err)
		}
	}
	if err := p.Cases.SweepKnown(t.Context(), p.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	var is string
	if err := p.DB.Get(&is, `SELECT string_agg(facts::text, ' ' ORDER BY entry_id) FROM known`); err != nil || is != was {
		t.Errorf("worked out anew: %s, was %s, %v", is, was, err)
	}
	p.Act(ann.LeadID, func(ctx context.Context, tx *db.Tx) error { return p.Intake.Withdraw(ctx, tx, ann) })
	if r, g := others(0); r != 0 || g != 0 {
		t.Errorf("withdrawn, it counts: %d, %d", r, g)
	}
}
