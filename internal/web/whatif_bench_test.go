package web_test

import (
	"net/url"
	"testing"

	"ulvant/core/lifecycle"
	"ulvant/demo"
	"ulvant/internal/decision"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A what-if over 2,000 cases that were read: the whole page as it is tried, the order
// and the rules without the page, and the bare bound, the marks read once.
func BenchmarkWhatIf2000(b *testing.B) {
	h := programtest.Demo(b)
	var read string
	if err := h.DB.Get(&read,
		`SELECT r.key FROM round r JOIN standing s ON s.round_id = r.id WHERE s.state = $1 AND r.key LIKE 'shore-and-peat%' GROUP BY r.key ORDER BY count(*) DESC LIMIT 1`,
		lifecycle.Read); err != nil {
		b.Fatal(err)
	}
	h.Crowd(multiply, 166, read, true)
	if _, err := h.DB.Exec(`ANALYZE`); err != nil {
		b.Fatal(err)
	}
	r, err := h.Rounds.Find(b.Context(), h.DB, read)
	if err != nil {
		b.Fatal(err)
	}
	f, err := h.Rounds.Published(b.Context(), h.DB, r)
	if err != nil {
		b.Fatal(err)
	}
	tried := decision.Tried{Past: true, Part: true, Down: 60, Reserves: 20, Quotas: []decision.TriedQuota{
		{Field: f.Design.Listed.Question, Value: "Tarl", Money: true, Least: 25}, {Field: f.Design.Listed.Question,
			Value: "Hallin", Most: new(400)}}}
	b.Run("marks alone", func(b *testing.B) {
		for b.Loop() {
			var n int
			if err := h.DB.Get(&n, `SELECT count(*) FROM standing st JOIN assignment g ON g.entry_id = st.entry_id AND g.sent_at IS NOT NULL
				JOIN mark m ON m.entry_id = g.entry_id AND m.account_id = g.account_id WHERE st.round_id = $1`, r.ID); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("tried", func(b *testing.B) {
		for b.Loop() {
			t, err := h.Decisions.Try(b.Context(), h.DB, r, f, f.FirstStage(), tried)
			if err != nil || len(t.Cases) < 2000 {
				b.Fatal(len(t.Cases), err)
			}
		}
	})
	bare := *f
	d := *f.Design
	d.Gifts = nil
	bare.Design = &d
	b.Run("tried, of money alone", func(b *testing.B) {
		for b.Loop() {
			if t, err := h.Decisions.Try(b.Context(), h.DB, r, &bare, f.FirstStage(), tried); err != nil || len(t.Cases) < 2000 {
				b.Fatal(len(t.Cases), err)
			}
		}
	})
	_, base := webtest.Serve(b, h)
	v := webtest.Visit(b, base)
	v.Submit("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"}, "password": {demo.Password}})
	b.Run("page", func(b *testing.B) {
		for b.Loop() {
			code, body := v.Submit("/office/rounds/"+read+"/what-ifs/try", url.Values{"past": {"yes"}, "reserves": {"20"},
				"quota": {
					string(f.Design.Listed.Question) + "|Tarl"}, "quota-of": {"money"}, "quota-least": {"25"}, "quota-most": {""}})
			if code != 200 || !webtest.Contains(body, "given something") {
				b.Fatal(code)
			}
		}
	})
}
