// Package paydesk speaks to a payment desk over HTTP and JSON. The server makes a
// checkout and sends the payer to its address; the desk takes the card and tells
// what came of it by a signed notice, which may come late, twice, out of order or
// never. So a notice carries all that the desk knows of the checkout, as does the
// answer when it is asked: there is one thing to read, and no order to keep.
//
// Every request that makes something carries an idempotency key: the same key is
// the same thing, however often it is asked for (as in the IETF draft
// “The Idempotency-Key HTTP Header Field”). Notices are signed by HMAC-SHA-256
// (RFC 2104, FIPS 180-4) over their time and their body.
package paydesk

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"net/http"
	"net/url"
	"time"

	"ulvant/core/money"
	"ulvant/core/refusal"
)

// State of a checkout.
type State string

// The states. A closed one takes no payment any more.
const (
	Open   State = "open"
	Paid   State = "paid"
	Closed State = "closed"
)

// Checkout as the desk knows it. Amounts are in minor units.
type Checkout struct {
	ID        string    `json:"id"`
	URL       string    `json:"url"` // where the payer goes
	State     State     `json:"state"`
	Amount    int64     `json:"amount"`
	Currency  string    `json:"currency"`
	Reference string    `json:"reference"`
	Until     time.Time `json:"until"` // it closes by itself then
	Declined  int       `json:"declined"`
	Payments  []Payment `json:"payments"`
	Refunds   []Refund  `json:"refunds"`
}

// Payment that the desk has taken.
type Payment struct {
	ID     string    `json:"id"`
	Amount int64     `json:"amount"`
	At     time.Time `json:"at"`
}

// Refund of a payment, or a part of it. Key is the idempotency key it was asked
// under; "" for one made at the desk.
type Refund struct {
	ID      string    `json:"id"`
	Key     string    `json:"key"`
	Payment string    `json:"payment"`
	Amount  int64     `json:"amount"`
	At      time.Time `json:"at"`
	Failed  bool      `json:"failed"`
}

// Ask is what a checkout is made of.
type Ask struct {
	Amount    int64     `json:"amount"`
	Currency  string    `json:"currency"`
	Reference string    `json:"reference"`
	What      string    `json:"what"`   // the payer reads it
	Return    string    `json:"return"` // where they come back to, paid or not
	Until     time.Time `json:"until"`
}

// Notice is what the desk sends by itself.
type Notice struct {
	ID       string   `json:"id"`
	Checkout Checkout `json:"checkout"`
}

// The headers of a notice: its time (RFC 3339) and its signature in hexadecimal.
const (
	TimeHeader = "Paydesk-Time"
	MACHeader  = "Paydesk-Mac"
	KeyHeader  = "Idempotency-Key"
)

// Fresh is how old a notice may be, and how far its clock may be ahead.
const Fresh = 10 * time.Minute

// MAC signs a time and a body.
func MAC(secret []byte, at string, body []byte) string {
	return hex.EncodeToString(keyed(sha256.New, secret, []byte(at), []byte("\n"), body))
}

func keyed(h func() hash.Hash, key []byte, parts ...[]byte) []byte {
	m := hmac.New(h, key)
	for _, p := range parts {
		m.Write(p)
	}
	return m.Sum(nil)
}

// ErrForged: a notice that is not signed by the desk, or too old to be believed.
var ErrForged = errors.New("the notice is not one of the desk’s, or is too old")

// Read a notice that has come, checking who signed it and when.
func Read(secret []byte, at, mac string, body []byte, now time.Time) (n Notice, err error) {
	want := MAC(secret, at, body)
	signed, err := time.Parse(time.RFC3339Nano, at)
	if len(secret) == 0 || !hmac.Equal([]byte(want), []byte(mac)) || err != nil || now.Sub(signed).Abs() > Fresh {
		return n, ErrForged
	}
	if err := json.Unmarshal(body, &n); err != nil || n.Checkout.ID == "" {
		return n, ErrForged
	}
	return n, nil
}

// Desk is the client. The zero Base is no desk.
type Desk struct {
	Base   string // https://…, without a slash at its end
	Secret []byte // shared with the desk: signs notices, and lets us in
	Client *http.Client
}

// ErrAway: the desk does not answer, or says that it cannot now. Whether what was
// asked was done is not known; asking again under the same key is safe.
var ErrAway = errors.New("the payment desk does not answer")

// ErrUnknown: there is no such checkout or payment at the desk.
var ErrUnknown = errors.New("the payment desk does not know it")

// ErrRefused: the desk will not do it.
var ErrRefused = errors.New("the payment desk refuses it")

// On reports that there is a desk.
func (d Desk) On() bool { return d.Base != "" }

// Make a checkout.
func (d Desk) Make(ctx context.Context, key string, a Ask) (c Checkout, err error) {
	return c, d.call(ctx, http.MethodPost, "/checkouts", key, a, &c)
}

// Get what the desk knows of a checkout.
func (d Desk) Get(ctx context.Context, id string) (c Checkout, err error) {
	return c, d.call(ctx, http.MethodGet, "/checkouts/"+url.PathEscape(id), "", nil, &c)
}

// Close a checkout, so that nobody pays there any more; one that is paid stays so.
func (d Desk) Close(ctx context.Context, id string) (c Checkout, err error) {
	return c, d.call(ctx, http.MethodPost, "/checkouts/"+url.PathEscape(id)+"/close", "", struct{}{}, &c)
}

// Refund a part of a payment, or all of it.
func (d Desk) Refund(ctx context.Context, key, payment string, amount int64) (c Checkout, err error) {
	return c, d.call(ctx, http.MethodPost, "/payments/"+url.PathEscape(payment)+"/refunds", key,
		struct {
			Amount int64 `json:"amount"`
		}{amount}, &c)
}

// call the desk and read its answer. Only what it says in so many words is taken
// for a no.
func (d Desk) call(ctx context.Context, method, path, key string, in, out any) error {
	ctx, cancel := context.WithTimeout(ctx, 10*time.Second)
	defer cancel()
	var body io.Reader
	if in != nil {
		raw, err := json.Marshal(in)
		if err != nil {
			return err
		}
		body = bytes.NewReader(raw)
	}
	req, err := http.NewRequestWithContext(ctx, method, d.Base+path, body)
	if err != nil {
		return err
	}
	req.Header.Set("Authorization", "Bearer "+hex.EncodeToString(d.Secret))
	req.Header.Set("Content-Type", "application/json")
	if key != "" {
		req.Header.Set(KeyHeader, key)
	}
	res, err := d.Client.Do(req)
	if err != nil {
		return fmt.Errorf("%w: %v", ErrAway, err)
	}
	defer res.Body.Close()
	switch res.StatusCode {
	case http.StatusOK, http.StatusCreated:
		if err := json.NewDecoder(http.MaxBytesReader(nil, res.Body, 1<<20)).Decode(out); err != nil {
			return fmt.Errorf("%w: %v", ErrAway, err)
		}
		return nil
	case http.StatusNotFound:
		return ErrUnknown
	case http.StatusConflict, http.StatusUnprocessableEntity, http.StatusUnauthorized:
		return fmt.Errorf("%w (%d)", ErrRefused, res.StatusCode)
	}
	return fmt.Errorf("%w (%d)", ErrAway, res.StatusCode)
}

// Line of a statement: what the desk took or gave back. Amount is below 0 for
// what it gave back.
type Line struct {
	At        time.Time
	Kind      string // payment | refund
	ID        string
	Checkout  string
	Reference string
	Amount    int64 // minor units
	Currency  string
}

// Columns of a statement as CSV (RFC 4180).
var Columns = []string{"time", "kind", "number", "checkout", "reference", "amount", "currency"}

// Statement of the desk from a time up to another.
func (d Desk) Statement(ctx context.Context, from, to time.Time) ([]Line, error) {
	ctx, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	q := url.Values{"from": {from.UTC().Format(time.RFC3339)}, "to": {to.UTC().Format(time.RFC3339)}}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, d.Base+"/statement?"+q.Encode(), nil)
	if err != nil {
		return nil, err
	}
	req.Header.Set("Authorization", "Bearer "+hex.EncodeToString(d.Secret))
	res, err := d.Client.Do(req)
	if err != nil {
		return nil, fmt.Errorf("%w: %v", ErrAway, err)
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("%w (%d)", ErrAway, res.StatusCode)
	}
	return ReadStatement(http.MaxBytesReader(nil, res.Body, 64<<20))
}

// ReadStatement reads one from CSV; the error says in which line what is wrong.
func ReadStatement(r io.Reader) (out []Line, err error) {
	in := csv.NewReader(r)
	head, err := in.Read()
	if err != nil {
		return nil, noStatement("it has no first line with the names of its columns")
	}
	at := map[string]int{}
	for i, h := range head {
		at[string(bytes.TrimPrefix([]byte(h), []byte("\ufeff")))] = i
	}
	for _, c := range Columns {
		if _, ok := at[c]; !ok {
			return nil, noStatement(fmt.Sprintf("it has no column %q", c))
		}
	}
	for line := 2; ; line++ {
		row, err := in.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, noStatement(fmt.Sprintf("line %d cannot be read", line))
		}
		l := Line{Kind: row[at["kind"]], ID: row[at["number"]], Checkout: row[at["checkout"]],
			Reference: row[at["reference"]], Currency: row[at["currency"]]}
		ok := money.Known(l.Currency) && (l.Kind == "payment" || l.Kind == "refund") && l.ID != ""
		n, read := money.Parse(row[at["amount"]], l.Currency)
		if l.At, err = time.Parse(time.RFC3339, row[at["time"]]); err != nil || !ok || !read ||
			(n < 0) != (l.Kind == "refund") {
			return nil, noStatement(
				fmt.Sprintf("line %d is no payment and no refund with its time, number, amount and currency", line),
			)
		}
		l.Amount = n
		out = append(out, l)
	}
}

func noStatement(why string) error {
	return refusal.Unfit("This is not a statement of the payment desk: " + why + ".")
}

// WriteStatement writes one as CSV.
func WriteStatement(w io.Writer, lines []Line) error {
	out := csv.NewWriter(w)
	if err := out.Write(Columns); err != nil {
		return err
	}
	for _, l := range lines {
		if err := out.Write([]string{l.At.UTC().Format(time.RFC3339), l.Kind, l.ID, l.Checkout, l.Reference,
			money.Exact(l.Amount, l.Currency), l.Currency}); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}
