package mail_test

import (
	"context"
	"testing"

	"ulvant/internal/platform/mail"
)

// What cannot be sent is an error at once, and says nothing to any server.
// internal/standin/tray tests what arrives.
func TestWhatCannotBeSent(t *testing.T) {
	good := mail.Message{ID: "1@x.example", From: "a@x.example", To: "b@x.example", BounceTo: "c@x.example", Subject: "s",
		Body: "b"}
	for _, c := range []struct {
		name, addr string
		change     func(m *mail.Message)
	}{
		{"no port", "127.0.0.1", func(*mail.Message) {}},
		{"a port that is no number", "127.0.0.1:smtp!", func(*mail.Message) {}},
		{"nobody listens", "127.0.0.1:1", func(*mail.Message) {}},
		{"no address to send to", "127.0.0.1:1", func(m *mail.Message) { m.To = "nobody" }},
		{"no address to come from", "127.0.0.1:1", func(m *mail.Message) { m.From = "" }},
		{"no address for bounces", "127.0.0.1:1", func(m *mail.Message) { m.BounceTo = "x" }},
		{"a copy to no address", "127.0.0.1:1", func(m *mail.Message) { m.Copies = []string{"x y"} }},
		{"answers to no address", "127.0.0.1:1", func(m *mail.Message) { m.ReplyTo = "x y" }},
	} {
		t.Run(c.name, func(t *testing.T) {
			m := good
			c.change(&m)
			if err := (mail.Server{Addr: c.addr}).Send(context.Background(), m); err == nil {
				t.Error("it was sent")
			}
		})
	}
}
