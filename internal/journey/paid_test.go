package journey_test

import (
	"context"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

func clean(t *testing.T, p webtest.Play, where string) {
	t.Helper()
	if faults, err := p.Accessible(); err != nil || len(faults) > 0 {
		t.Errorf("%s: %v %v", where, faults, err)
	}
}

// An entrant seals, pays through a decline and an abandoned try, comes back to find
// it in, and has a receipt; somebody else pays for another, on a phone; the office
// gives a part back, and a second person agrees.
func TestPayingAFee(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	officer := webtest.Officer(h)
	h.OpenRound(officer, programtest.WithFee)
	c := h.Ready("imre@corvoe.example")

	imre := webtest.In(t, webtest.Window(t, base))
	imre.SignsIn("imre@corvoe.example")
	imre.Goes("/applications/" + c.Ref + "/sections/declarations")
	imre.Reads("€60") // the total as it forms, and what it becomes
	imre.Reads("€90 from Thu 8 Apr, 16:00")
	imre.Fills(`[name="fees::catalogue"]`, "2")
	imre.Kept()
	imre.Reads("€96")
	imre.Goes("/applications/" + c.Ref + "/send")
	imre.Reads("To pay: €96")
	clean(t, imre, "sending")
	imre.Fills(`[name=password]`, programtest.Password)
	imre.Presses(`form.stackform button.big`)
	imre.Reads("The application is sealed. It is in when €96 are paid.")
	clean(t, imre, "the fee")
	imre.Presses(`.paynow button`)
	imre.Reads("A stand-in for a payment desk.") // another site
	imre.Presses(`[value=declined]`)
	imre.Presses(`main button`)
	imre.Reads("The card was declined. Nothing was paid")
	imre.Presses(`form a[href]`) // and goes away
	imre.Reads("The card was declined; nothing was paid.")
	imre.Presses(`.paynow button`)
	imre.Presses(`[value=never]`) // the desk will not tell of it
	imre.Presses(`main button`)
	imre.Reads("The application is in, and nothing is to be paid.")
	imre.Waits(`[...document.querySelectorAll('.feemoves a')].some(a => a.textContent === 'Receipt 1')`)
	clean(t, imre, "the fee, paid")
	imre.Goes("/applications/" + c.Ref + "/sent")
	imre.Reads("is in")

	// by somebody else, on a phone
	d := h.Ready("una@corvoe.example")
	h.Act(
		d.LeadID,
		func(ctx context.Context, tx *db.Tx) (err error) { d, err = h.Intake.Send(ctx, tx, d); return err },
	)
	una := webtest.Visit(t, base).As("una@corvoe.example")
	if code, _ := una.Submit("/applications/"+d.Ref+"/fee/payers", url.Values{"name": {"Maud"},
		"email": {"maud@school.example"}}); code != http.StatusSeeOther {
		t.Fatalf("asking somebody to pay: %d", code)
	}
	maud := webtest.In(t, webtest.Window(t, base))
	maud.Ok(maud.Size(390, 844))
	link := webtest.Link(t, h, "maud@school.example")
	maud.Goes(link)
	maud.Reads("Una Hart asks you to pay")
	clean(t, maud, "somebody else's page")
	maud.Presses(`main form button`)
	maud.Reads("A stand-in for a payment desk.")
	maud.Presses(`main button`)
	maud.Reads("Nothing is to be paid any more.")
	maud.Reads("Receipt 2")
	if got := h.StateOf(d); got != lifecycle.Sent && got != lifecycle.Eligible {
		t.Errorf("paid by somebody else, it is %s", got)
	}
	if _, page := webtest.Visit(t, base).See(link); webtest.Contains(page, "Reed.") {
		t.Error("the payer reads the application")
	}

	// the office gives a part back
	neda := webtest.In(t, webtest.Window(t, base))
	neda.SignsIn("neda@ostrel-trust.example")
	neda.Goes("/office/rounds/shore-2027/fees")
	neda.Reads("It adds up")
	clean(t, neda, "the fees of the round")
	neda.Goes("/office/applications/" + c.Ref + "/fee")
	neda.Presses(`details:has(form[action$="/back"]) summary`)
	neda.Fills(`form[action$="/back"] [name=amount]`, "3o")
	neda.Fills(`form[action$="/back"] [name=reason]`, "The catalogue is sold out.")
	neda.Presses(`form[action$="/back"] button`)
	neda.Reads("“3o” is no sum.")
	neda.Fills(`form[action$="/back"] [name=amount]`, "36")
	neda.Presses(`form[action$="/back"] button`)
	neda.Reads("You proposed it; somebody else must agree.")
	clean(t, neda, "the fee of a case")
	second := h.Person("oskar@ostrel-trust.example", "Oskar Lind")
	h.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, second.ID, access.Held{Role: access.ReleasesMoney})
	})
	oskar := webtest.In(t, webtest.Window(t, base))
	oskar.SignsIn("oskar@ostrel-trust.example")
	oskar.Goes("/office")
	oskar.Reads("fee proposed to be given back or settled, if you agree")
	oskar.Goes("/office/applications/" + c.Ref + "/fee")
	oskar.Presses(`form[action$="/agree"] [value=yes]`)
	oskar.Reads("Agreed.")
	h.Drain()
	imre.Goes("/applications/" + c.Ref + "/fee")
	imre.Reads("The catalogue is sold out.")
	neda.Goes("/office/rounds/shore-2027/fees/desk?from=2027-03-01&to=2027-03-02")
	neda.Reads("Nothing differs.")
	clean(t, neda, "against the desk")
}

// Two press Pay two seconds before closing. Both began in time: the one that is
// through within the grace is in, the other’s place is gone and nothing was taken.
func TestTwoPayAtTheClosing(t *testing.T) {
	t.Parallel()
	closes := time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC)
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), programtest.WithFee)
	a, b := h.Ready("ann@corvoe.example"), h.Ready("bob@corvoe.example")
	h.Clock.Set(closes.Add(-2 * time.Second))
	var went []string
	for _, who := range []string{"ann", "bob"} {
		ref := map[string]string{"ann": a.Ref, "bob": b.Ref}[who]
		v := webtest.Visit(t, base).As(who + "@corvoe.example")
		v.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
		if code, _ := v.Submit("/applications/"+ref+"/send",
			url.Values{"password": {programtest.Password}}); code != http.StatusSeeOther {
			t.Fatalf("%s sends: %d", who, code)
		}
		code, _ := v.Submit("/applications/"+ref+"/fee/pay", url.Values{})
		if code != http.StatusSeeOther {
			t.Fatalf("%s pays: %d", who, code)
		}
		list := h.Till.Checkouts(ref)
		if len(list) != 1 || list[0].Amount != 9_000 {
			t.Fatalf("%s: %+v", who, list)
		}
		went = append(went, list[0].ID)
	}
	h.Clock.Set(closes.Add(59 * time.Minute))
	if got := h.Till.Take(went[0], "pays", "never"); got != "taken" {
		t.Fatal(got)
	}
	ann := webtest.Visit(t, base).As("ann@corvoe.example")
	ann.See("/applications/" + a.Ref + "/fee/back")
	h.Clock.Set(closes.Add(time.Hour))
	if got := h.Till.Take(went[1], "pays", "never"); got != "closed" {
		t.Errorf("after the grace the desk says: %s", got)
	}
	if err := h.Jobs.Sweep(t.Context(), h.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	h.Drain()
	if x, y := h.StateOf(a), h.StateOf(b); x != lifecycle.Eligible || y != lifecycle.Unpaid {
		t.Errorf("it is %s and %s", x, y)
	}
	bob := webtest.Visit(t, base).As("bob@corvoe.example")
	if _, page := bob.See("/applications/" + b.Ref + "/fee"); !webtest.Contains(
		page,
		"The fee was not paid in time, so the application is not in.",
	) {
		t.Error("bob is not told")
	}
}

// A notice that nobody signed, or somebody else did, changes nothing.
func TestForgedNotices(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	for _, mac := range []string{"", "00"} {
		req, err := http.NewRequest(
			http.MethodPost,
			base+"/paydesk/notices",
			strings.NewReader(`{"id":"n","checkout":{"id":"c1"}}`),
		)
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set("Paydesk-Time", h.Clock.Now().Format(time.RFC3339Nano))
		req.Header.Set("Paydesk-Mac", mac)
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		if res.StatusCode != http.StatusNotFound {
			t.Errorf("signed %q: %d", mac, res.StatusCode)
		}
	}
}
