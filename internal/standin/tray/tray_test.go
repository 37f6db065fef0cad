package tray_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"ulvant/internal/platform/mail"
	"ulvant/internal/standin/tray"
)

// What is sent over SMTP is in the tray as it was written, and is there again
// when the tray is opened anew.
func TestAMailArrivesAsItWasWritten(t *testing.T) {
	dir := t.TempDir()
	open := func() *tray.Tray {
		x, err := tray.Start("127.0.0.1:0", dir)
		if err != nil {
			t.Fatal(err)
		}
		return x
	}
	x := open()
	at := time.Date(2027, 3, 2, 12, 0, 0, 0, time.UTC)
	for _, m := range []mail.Message{
		{ID: "one@ulvant.example", From: "grants@trust.example", FromName: "The Ostrel\r\nBcc: all@x.example Trust",
			To: "imre@corvoe.example", ToName: "Imre “Reed” Ó Calloway", Copies: []string{"ysolde@tarl.example"},
			ReplyTo: "desk@trust.example", BounceTo: "bounce+abc@trust.example",
			Subject: "Sent: “Röhricht”\nand more", Body: "Dear Imre,\n\nit is in. €5,000 – القصب.\n", At: at},
		{ID: "two@ulvant.example", From: "grants@trust.example", To: "ann@corvoe.example", BounceTo: "b@trust.example",
			Subject: "With a copy", Body: "See the file.", At: at, AttachName: "R-1.pdf", AttachBytes: []byte("%PDF-1.7 …")},
	} {
		if err := (mail.Server{Addr: x.Addr}).Send(context.Background(), m); err != nil {
			t.Fatal(err)
		}
	}
	look := func(x *tray.Tray) {
		t.Helper()
		all, more := x.List("", 0, 10)
		if len(all) != 2 || more {
			t.Fatalf("%d mails, more: %v", len(all), more)
		}
		list, _ := x.List("imre@corvoe.example", 0, 10)
		if len(list) != 1 {
			t.Fatalf("%d to Imre", len(list))
		}
		m := list[0]
		for what, pair := range map[string][2]string{
			"to":       {m.To, "imre@corvoe.example"},
			"subject":  {m.Subject, "Sent: “Röhricht” and more"},
			"body":     {strings.ReplaceAll(strings.TrimSpace(m.Body), "\r\n", "\n"), "Dear Imre,\n\nit is in. €5,000 – القصب."},
			"from":     {m.From, "grants@trust.example"},
			"attached": {m.Attachment, ""},
		} {
			if !strings.Contains(pair[0], pair[1]) {
				t.Errorf("%s: %q, want %q", what, pair[0], pair[1])
			}
		}
		if strings.Contains(strings.Join(m.Copies, " "), "all@x.example") || len(m.Copies) != 1 {
			t.Errorf("copies to %v: a name smuggled a header in", m.Copies)
		}
		if list, _ := x.List("ann@corvoe.example", 0, 10); len(list) != 1 || list[0].Attachment != "R-1.pdf" ||
			string(list[0].Bytes) != "%PDF-1.7 …" {
			t.Errorf("%+v", list)
		}
		if found, ok := x.Find(m.ID); !ok || found.Subject != m.Subject {
			t.Errorf("%+v %v", found, ok)
		}
		if first, more := x.List("", 0, 1); len(first) != 1 || !more {
			t.Errorf("a page of one: %d, more: %v", len(first), more)
		}
	}
	look(x)
	x.Stop()
	x = open()
	defer x.Stop()
	look(x)
	if _, ok := x.Find("../../etc/passwd"); ok {
		t.Error("it finds what is no mail")
	}
}

func TestItListensOnLoopbackOnly(t *testing.T) {
	for _, addr := range []string{"0.0.0.0:0", ":0", "192.0.2.1:25", "mail.example:25", "nonsense"} {
		if x, err := tray.Start(addr, t.TempDir()); err == nil {
			x.Stop()
			t.Errorf("it listens on %q", addr)
		}
	}
}
