package program_test

import (
	"bytes"
	"context"
	"net/smtp"
	"testing"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/mail"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
)

// A mail to a mailbox that there is not comes back over SMTP, as the stand-in
// plays it; what it asked is the applicant's to mend at once. Mails to any other
// address are not taken, and what is no report changes nothing.
func TestMailsComeBackOverSMTP(t *testing.T) {
	t.Parallel()
	h, lead, c := programtest.Opened(t, programtest.Lettered)
	in, err := mail.Listen(
		"127.0.0.1:0",
		"ostrel-trust.example",
		func(ctx context.Context, token string, raw []byte) error {
			return h.Post.Bounced(ctx, h.Clock.Now(), token, raw)
		},
		func(context.Context, string, []byte) error { return mail.ErrNoReport },
	)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(in.Stop)
	h.Tray.SendBack(in.Addr, []string{"tral.example"})
	ask := func(name, email string) (id int64) {
		h.Act(lead, func(ctx context.Context, tx *db.Tx) (err error) {
			id, err = h.Referees.Name(
				ctx,
				tx,
				c,
				"site-referee",
				reference.Person{Name: name, Email: email, Knows: "a neighbour"},
			)
			return err
		})
		h.Drain()
		h.Tray.Returned()
		return id
	}
	state := func(id int64) reference.Referee {
		r, _, err := h.Referees.Load(context.Background(), h.DB, id)
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	id := ask("Ada", "ada@tral.example")
	if r := state(id); !r.Bounced() || r.BounceStatus() != "5.1.2" {
		t.Errorf("nothing came back: %+v", r)
	}
	var bounced int
	if err := h.DB.Get(&bounced, `SELECT count(*) FROM post WHERE bounced_at IS NOT NULL`); err != nil ||
		bounced != 1 {
		t.Errorf("%d mails came back, %v", bounced, err)
	}
	h.Act(lead, func(ctx context.Context, tx *db.Tx) error {
		return h.Referees.Correct(ctx, tx, c, id, "gone.ada@tarl.example")
	})
	h.Drain()
	h.Tray.Returned()
	list, err := h.Referees.Of(context.Background(), h.DB, c.EntryID)
	if err != nil || len(list) != 2 || !list[1].Bounced() || list[1].BounceStatus() != "5.1.1" {
		t.Errorf("no such mailbox: %+v %v", list, err)
	}
	h.Act(lead, func(ctx context.Context, tx *db.Tx) error {
		return h.Referees.Correct(ctx, tx, c, list[1].ID, "ada@tarl.example")
	})
	h.Drain()
	h.Tray.Returned()
	if list, err = h.Referees.Of(context.Background(), h.DB, c.EntryID); err != nil || list[2].Bounced() {
		t.Errorf("it arrived: %+v %v", list, err)
	}
	for _, to := range []string{"grants@ostrel-trust.example", "bounce+x@elsewhere.example",
		"bounce+@ostrel-trust.example"} {
		if err := smtp.SendMail(in.Addr, nil, "a@b.example", []string{to}, []byte("Subject: x\r\n\r\nx\r\n")); err == nil {
			t.Errorf("a mail to %s was taken", to)
		}
	}
	if err := smtp.SendMail(in.Addr, nil, "a@b.example", []string{"bounce+token@ostrel-trust.example"},
		[]byte("Subject: away\r\n\r\nI am away.\r\n")); err != nil {
		t.Errorf("an answer by a machine: %v", err)
	}
	if err := smtp.SendMail(in.Addr, nil, "a@b.example", []string{"bounce+token@ostrel-trust.example"},
		append([]byte("Subject: huge\r\n\r\n"), bytes.Repeat([]byte("xxxxxxxxx\r\n"), 200_000)...)); err == nil {
		t.Error("two megabytes were taken")
	}
}
