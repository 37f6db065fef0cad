package paydesk_test

import (
	"errors"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"path/filepath"
	"strings"
	"testing"
	"time"

	desk "ulvant/internal/platform/paydesk"
	"ulvant/internal/standin/paydesk"
)

var secret = []byte("between the two")

// told collects the notices that were signed as they should be.
func told(t *testing.T) (address string, notices chan desk.Notice) {
	t.Helper()
	notices = make(chan desk.Notice, 100)
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		n, err := desk.Read(secret, r.Header.Get(desk.TimeHeader), r.Header.Get(desk.MACHeader), body, time.Now())
		if err != nil {
			t.Error(err)
		}
		notices <- n
	}))
	t.Cleanup(s.Close)
	return s.URL, notices
}

func start(t *testing.T, notify, file string) (*paydesk.Desk, desk.Desk) {
	t.Helper()
	d, err := paydesk.Start("127.0.0.1:0", secret, notify, file)
	if err != nil {
		t.Fatal(err)
	}
	return d, desk.Desk{Base: "http://" + d.Addr, Secret: secret, Client: &http.Client{}}
}

func ask(amount int64) desk.Ask {
	return desk.Ask{
		Amount:    amount,
		Currency:  "EUR",
		Reference: "FDC-1",
		What:      "An entry",
		Return:    "http://shop.example/back",
		Until:     time.Now().Add(time.Hour),
	}
}

// A checkout is made once for a key, paid once, refunded once for a key, and told
// of by signed notices; all of it outlives the program.
func TestACheckout(t *testing.T) {
	notify, notices := told(t)
	file := filepath.Join(t.TempDir(), "desk.json")
	d, c := start(t, notify, file)
	made, err := c.Make(t.Context(), "k1", ask(9000))
	if err != nil || made.State != desk.Open {
		t.Fatalf("%+v %v", made, err)
	}
	if again, err := c.Make(t.Context(), "k1", desk.Ask{Amount: 1, Currency: "EUR",
		Until: time.Now().Add(time.Hour)}); !errors.Is(
		err,
		desk.ErrRefused,
	) {
		t.Errorf("a key that was used for something else: %+v %v", again, err)
	}
	if d.Take(made.ID, "declined", "now") != paydesk.Declined || (<-notices).Checkout.Declined != 1 {
		t.Error("a card that is declined")
	}
	if d.Take(made.ID, "pays", "twice") != paydesk.Took || d.Take(made.ID, "pays", "now") != paydesk.TooLate {
		t.Error("a card that pays, and another after it")
	}
	one, two := <-notices, <-notices
	if one.ID != two.ID || one.Checkout.State != desk.Paid || len(one.Checkout.Payments) != 1 {
		t.Errorf("%+v\n%+v", one, two)
	}
	paid := one.Checkout.Payments[0]
	for _, amount := range []int64{0, 9001} {
		if _, err := c.Refund(t.Context(), "r0", paid.ID, amount); !errors.Is(err, desk.ErrRefused) {
			t.Errorf("%d goes back: %v", amount, err)
		}
	}
	for range 2 {
		back, err := c.Refund(t.Context(), "r1", paid.ID, 4000)
		if err != nil || len(back.Refunds) != 1 || back.Refunds[0].Key != "r1" {
			t.Fatalf("%+v %v", back, err)
		}
	}
	if n := <-notices; len(n.Checkout.Refunds) != 1 {
		t.Errorf("%+v", n)
	}
	if err := d.GiveBack(paid.ID, 1000, "now"); err != nil || d.GiveBack(paid.ID, 4001, "now") == nil ||
		d.GiveBack("none", 1, "now") == nil {
		t.Errorf("given back at the desk: %v", err)
	}
	<-notices
	d.Stop()
	d, c = start(t, "", file)
	defer d.Stop()
	got, err := c.Get(t.Context(), made.ID)
	if err != nil || len(got.Refunds) != 2 || got.State != desk.Paid {
		t.Fatalf("after it was started anew: %+v %v", got, err)
	}
	lines, err := c.Statement(t.Context(), time.Now().Add(-time.Hour), time.Now().Add(time.Hour))
	if err != nil || len(lines) != 3 || lines[0].Amount != 9000 || lines[1].Amount != -4000 ||
		lines[2].Amount != -1000 {
		t.Errorf("the statement: %+v %v", lines, err)
	}
	if l := d.Checkouts("FDC-1"); len(l) != 1 || len(d.Checkouts("FDC-2")) != 0 {
		t.Errorf("%+v", l)
	}
}

// What goes wrong with a desk.
func TestWhatGoesWrong(t *testing.T) {
	notify, notices := told(t)
	d, c := start(t, notify, "")
	defer d.Stop()
	d.Late = 0
	for _, x := range []struct {
		card string
		want int64
	}{{"less", 8000}, {"more", 9500}} {
		made, err := c.Make(t.Context(), x.card, ask(9000))
		if err != nil {
			t.Fatal(err)
		}
		d.Take(made.ID, x.card, "never")
		if got, _ := c.Get(t.Context(), made.ID); got.Payments[0].Amount != x.want {
			t.Errorf("%s: %+v", x.card, got)
		}
	}
	closing, _ := c.Make(t.Context(), "closing", ask(9000))
	if got, err := c.Close(t.Context(), closing.ID); err != nil || got.State != desk.Closed ||
		d.Take(closing.ID, "pays", "now") != paydesk.TooLate {
		t.Errorf("closed: %+v %v", got, err)
	}
	over, _ := c.Make(t.Context(), "over", ask(9000))
	d.By(func() time.Time { return time.Now().Add(time.Hour) })
	if got, _ := c.Get(t.Context(), over.ID); got.State != desk.Closed {
		t.Errorf("its time is over: %+v", got)
	}
	d.By(time.Now)
	if d.Take("c999999", "pays", "now") != paydesk.NoSuch {
		t.Error("a checkout that there is not")
	}
	for _, err := range []error{second(c.Get(t.Context(), "none")), second(c.Refund(t.Context(), "r", "none", 1)),
		second(c.Close(t.Context(), "none"))} {
		if !errors.Is(err, desk.ErrUnknown) {
			t.Errorf("what it does not know: %v", err)
		}
	}
	late, _ := c.Make(t.Context(), "late", ask(9000))
	d.Take(late.ID, "pays", "late")
	if n := <-notices; n.Checkout.ID != late.ID {
		t.Errorf("the first that is told is %+v", n)
	}
	if _, err := c.Make(t.Context(), "", ask(9000)); !errors.Is(err, desk.ErrRefused) {
		t.Errorf("without a key: %v", err)
	}
	stranger := c
	stranger.Secret = []byte("x")
	if _, err := stranger.Get(t.Context(), late.ID); !errors.Is(err, desk.ErrRefused) {
		t.Errorf("a stranger: %v", err)
	}
	d.Down.Store(true)
	if _, err := c.Get(t.Context(), late.ID); !errors.Is(err, desk.ErrAway) {
		t.Errorf("down: %v", err)
	}
	for _, addr := range []string{"0.0.0.0:0", "x"} {
		if d, err := paydesk.Start(addr, secret, "", ""); err == nil {
			d.Stop()
			t.Errorf("it listens on %s", addr)
		}
	}
}

func second(_ desk.Checkout, err error) error { return err }

// The page takes a card and sends the payer back.
func TestThePage(t *testing.T) {
	d, c := start(t, "", "")
	defer d.Stop()
	made, _ := c.Make(t.Context(), "k", ask(9000))
	client := &http.Client{
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
	}
	read := func(res *http.Response, err error) (int, string) {
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		b, _ := io.ReadAll(res.Body)
		return res.StatusCode, string(b) + res.Header.Get("Location")
	}
	for _, x := range []struct {
		card   string
		status int
		says   string
	}{{"", 200, "€90"}, {"declined", 200, "Nothing was paid"}, {"pays", 303, "http://shop.example/back"},
		{"", 200, "This is paid."}, {"pays", 303, "http://shop.example/back"}} {
		status, body := read(client.Get(made.URL))
		if x.card != "" {
			status, body = read(client.PostForm(made.URL, url.Values{"card": {x.card}}))
		}
		if status != x.status || !strings.Contains(body, x.says) {
			t.Errorf("%q: %d %s", x.card, status, body)
		}
	}
	if status, _ := read(client.Get("http://" + d.Addr + "/pay/none")); status != 404 {
		t.Errorf("a page that there is not: %d", status)
	}
	if status, _ := read(client.PostForm("http://"+d.Addr+"/pay/none", nil)); status != 404 {
		t.Errorf("paying there: %d", status)
	}
}
