package guest_test

import (
	"context"
	"net/url"
	"strings"
	"testing"
	"time"

	"ulvant/core/profile"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// An officer of an organisation is asked by the rules that hold for everybody who
// answers by a link: reminded after six days of silence and never more often than
// four times, told word for word what they confirm, and given evidence of it.
func TestAnOfficerAnswersByALink(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	ann := h.Person("ann@tarl.example", "Ann Hart")
	h.Act(ann.ID, func(ctx context.Context, tx *db.Tx) error {
		id, err := h.Profiles.Make(ctx, tx, profile.Body, "Tarl Moor Society")
		if err == nil {
			err = h.Profiles.AskOfficer(ctx, tx, id, "Ronan Teague", "ronan@tarl.example", "chair")
		}
		return err
	})
	h.Drain()
	reminders := func() (n int, last string) {
		h.Drain()
		list, _ := h.Tray.List("ronan@tarl.example", 0, 20)
		for i := len(list) - 1; i >= 0; i-- {
			if strings.HasPrefix(list[i].Subject, "Still open") {
				n, last = n+1, list[i].Body
			}
		}
		return n, last
	}
	began := h.Clock.Now()
	sweep := func(after time.Duration) {
		for range 2 { // twice is once
			if err := h.Profiles.SweepAsked(t.Context(), began.Add(after)); err != nil {
				t.Fatal(err)
			}
		}
	}
	sweep(6*24*time.Hour - time.Minute)
	if n, _ := reminders(); n != 0 {
		t.Errorf("too early: %d", n)
	}
	for d := 6; d < 50; d++ {
		sweep(time.Duration(d) * 24 * time.Hour)
	}
	h.Clock.Set(began.Add(50 * 24 * time.Hour))
	if n, last := reminders(); n != 4 || !strings.Contains(last, "This is the last reminder") {
		t.Errorf("%d reminders; the last says %q", n, last)
	}
	link := webtest.Mailed(h, "ronan@tarl.example", "/officer/")
	v := webtest.Visit(t, base)
	const says = "That I, Ronan Teague, am chair of “Tarl Moor Society”, and that Ann Hart (ann@tarl.example) may apply for grants in its name."
	if code, body := v.See(link); code != 200 || !webtest.Contains(body, says) {
		t.Errorf("what is confirmed: %d %s", code, body)
	}
	if code, _ := v.See(link + "/evidence.pdf"); code != 404 {
		t.Errorf("evidence of nothing: %d", code)
	}
	if code, body := v.See(link + "/all"); code != 200 || !webtest.Contains(body, "Whether you may sign for it") ||
		!webtest.Contains(body, "1 thing waits for you.") {
		t.Errorf("everything: %d %s", code, body)
	}
	if code, _ := v.Submit(link, url.Values{"answer": {"yes"}}); code != 303 {
		t.Fatal(code)
	}
	if code, body := v.See(link); code != 200 || !webtest.Contains(body, "“"+says+"”") {
		t.Errorf("confirmed: %s", body)
	}
	if code, body := v.See(link + "/evidence.pdf"); code != 200 || !strings.HasPrefix(body, "%PDF") {
		t.Errorf("evidence: %d", code)
	}
	if code, _ := v.Submit(link, url.Values{"answer": {"no"}}); code != 303 {
		t.Fatal(code)
	}
	if code, _ := v.See(link + "/evidence.pdf"); code != 404 {
		t.Errorf("evidence of what was refused since: %d", code)
	}
}
