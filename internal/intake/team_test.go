package intake_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// Who writes an application together: asked by its lead, theirs when they accept,
// judged by nobody who writes it; the lead changes when the other agrees.
func TestTheTeam(t *testing.T) {
	h, lead, c := programtest.Opened(t, nil)
	ctx := context.Background()
	ask := func(email, name, part string) error {
		return h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
			return h.Intake.InviteTeammate(ctx, tx, c, email, name, part)
		})
	}
	team := func() (out string) {
		list, err := h.Cases.Team(ctx, h.DB, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range list {
			out += p.Name + " " + p.Kind + "; "
		}
		return out
	}
	asked := func() (ids []int64) {
		list, err := h.Cases.Invitations(ctx, h.DB, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, i := range list {
			if i.State == application.InvitationAsked {
				ids = append(ids, i.ID)
			}
		}
		return ids
	}
	mails := func(to, subject string) (n int) {
		h.Drain()
		list, _ := h.Tray.List(to, 0, 100)
		for _, m := range list {
			if strings.Contains(m.Subject, subject) {
				n++
			}
		}
		return n
	}
	join := func(id int64, who string, rel access.Relations) error {
		a := h.Person(who, "Bo")
		return h.Try(a.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Intake.Join(ctx, tx, id, a, rel)
			return err
		})
	}
	for _, r := range []struct{ what, email, name, in string }{
		{"no name", "bo@corvoe.example", " ", "name"}, {"no address", "bo", "Bo Hart", "email"},
		{"who leads it", "IMRE@corvoe.example", "Imre Calloway", "email"},
	} {
		if no, ok := refusal.Of(ask(r.email, r.name, application.Teammate)); !ok || no.Field != r.in {
			t.Errorf("%s: %+v", r.what, no)
		}
	}
	if err := ask(
		"Bo@Corvoe.example",
		"Bo Hart",
		application.Teammate,
	); err != nil || len(asked()) != 1 ||
		team() != "Imre Calloway lead; " {
		t.Fatalf("asked: %v, %s", err, team())
	}
	if no, ok := refusal.Of(
		ask("bo@corvoe.example", "Bo Hart", application.Teammate),
	); !ok ||
		!strings.Contains(no.Says, "asked already") {
		t.Errorf("asked twice: %+v", no)
	}
	if mails("bo@corvoe.example", "asks you to write") != 1 {
		t.Error("the one who is asked has no mail, or two")
	}
	bo := asked()[0]
	for what, rel := range map[string]access.Relations{"the office": access.Office,
		"a reader of the round": access.ReaderOf} {
		if no, ok := refusal.Of(join(bo, "bo@corvoe.example", rel)); !ok || no.Field != "over" {
			t.Errorf("%s joins: %+v", what, no)
		}
	}
	if err := join(bo, "bo@corvoe.example", 0); err != nil || team() != "Imre Calloway lead; Bo teammate; " ||
		mails("imre@corvoe.example", "said yes") != 1 {
		t.Fatalf("joined: %v, %s", err, team())
	}
	if err := join(bo, "bo@corvoe.example", 0); !errors.Is(err, intake.ErrInvitationOver) {
		t.Errorf("joined twice: %v", err)
	}
	if no, ok := refusal.Of(ask("bo@corvoe.example", "Bo Hart", application.Commenter)); !ok || no.Field != "email" {
		t.Errorf("asked who has a part: %+v", no)
	}
	// one says no, one invitation is taken back
	for _, email := range []string{"cy@corvoe.example", "di@corvoe.example"} {
		if err := ask(email, "Cy or Di", application.Commenter); err != nil || mails(email, "asks you to read") != 1 {
			t.Fatal(err)
		}
	}
	open := asked()
	h.Held(0, func(ctx context.Context, tx *db.Tx) error { return h.Intake.Decline(ctx, tx, open[0]) })
	if mails("imre@corvoe.example", "said no") != 1 {
		t.Error("the lead is not told of a no")
	}
	other := h.Draft("ed@corvoe.example")
	if err := h.Try(other.LeadID, func(ctx context.Context, tx *db.Tx) error {
		return h.Intake.TakeInvitationBack(ctx, tx, other, open[1])
	}); !errors.Is(err, application.ErrNotFound) {
		t.Errorf("another takes it back: %v", err)
	}
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error { return h.Intake.TakeInvitationBack(ctx, tx, c, open[1]) })
	for _, id := range open {
		if err := join(id, "fay@corvoe.example", 0); !errors.Is(err, intake.ErrInvitationOver) {
			t.Errorf("it is over, and %v", err)
		}
	}
	// to lead: only somebody of the team, and only when they agree
	toLead := func(account int64) error {
		return h.Try(
			lead,
			func(ctx context.Context, tx *db.Tx) error { return h.Intake.AskToLead(ctx, tx, c, account) },
		)
	}
	if err := toLead(other.LeadID); !errors.Is(err, application.ErrNotFound) {
		t.Errorf("a stranger is asked to lead: %v", err)
	}
	if err := toLead(lead); !errors.Is(err, application.ErrNotFound) {
		t.Errorf("the lead is asked to lead: %v", err)
	}
	boAccount := h.Person("bo@corvoe.example", "Bo").ID
	if err := toLead(boAccount); err != nil || !strings.HasPrefix(team(), "Imre Calloway lead") {
		t.Fatalf("asked, and leads already: %v, %s", err, team())
	}
	if err := join(asked()[0], "bo@corvoe.example", 0); err != nil || team() != "Bo lead; Imre Calloway teammate; " {
		t.Fatalf("handed over: %v, %s", err, team())
	}
	if mails("bo@corvoe.example", "now leads") != 1 || mails("imre@corvoe.example", "now leads") != 1 {
		t.Error("both should be told who leads")
	}
	c, err := h.Cases.Find(ctx, h.DB, c.Ref)
	if err != nil || c.LeadID != boAccount {
		t.Fatal(c.LeadID, err)
	}
	a, err := h.People.Find(ctx, h.DB, lead)
	if err != nil {
		t.Fatal(err)
	}
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error { return h.Intake.LeaveTeam(ctx, tx, c, a) })
	if team() != "Bo lead; " || mails("bo@corvoe.example", "has left") != 1 {
		t.Errorf("left: %s", team())
	}
	if err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
		return h.Intake.DropTeammate(ctx, tx, c, lead)
	}); err == nil {
		t.Error("somebody is dropped who has no part")
	}
	var verbs []string
	if err := h.DB.Select(&verbs, `SELECT verb FROM trail WHERE application_id = $1 ORDER BY id`, c.ID); err != nil {
		t.Fatal(err)
	}
	for _, verb := range []string{"teammate-asked", "teammate-joined", "handed-over", "teammate-left"} {
		if !slices.Contains(verbs, verb) {
			t.Errorf("%s is not in the trail: %v", verb, verbs)
		}
	}
}

// Somebody who was dropped is told; after sending nobody joins or is dropped.
func TestTheTeamAfterSending(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	c := h.Ready("imre@corvoe.example")
	bo := h.Person("bo@corvoe.example", "Bo Hart")
	asks := func(email string) (id int64) {
		h.Held(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			return h.Intake.InviteTeammate(ctx, tx, c, email, "Bo Hart", application.Teammate)
		})
		list, err := h.Cases.Invitations(context.Background(), h.DB, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		return list[len(list)-1].ID
	}
	joins := func(id int64) error {
		return h.Try(bo.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Intake.Join(ctx, tx, id, bo, 0)
			return err
		})
	}
	drops := func() error {
		return h.Try(
			c.LeadID,
			func(ctx context.Context, tx *db.Tx) error { return h.Intake.DropTeammate(ctx, tx, c, bo.ID) },
		)
	}
	if err := joins(asks("bo@corvoe.example")); err != nil {
		t.Fatal(err)
	}
	if err := drops(); err != nil {
		t.Fatal(err)
	}
	h.Drain()
	if list, _ := h.Tray.List("bo@corvoe.example", 0, 1); !strings.Contains(list[0].Subject, "You no longer write") {
		t.Errorf("told: %s", list[0].Subject)
	}
	if err := joins(asks("bo@corvoe.example")); err != nil {
		t.Fatal(err)
	}
	late := asks("cy@corvoe.example")
	if _, err := send(h, c); err != nil {
		t.Fatal(err)
	}
	if err := joins(late); !errors.Is(err, intake.ErrInvitationOver) {
		t.Errorf("joined after sending: %v", err)
	}
	if err := drops(); err == nil {
		t.Error("dropped after sending")
	}
}
