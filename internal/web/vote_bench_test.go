package web_test

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/internal/ballot"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// 100,000 ballots on sixty projects, counted from the database to the published
// document, beside one pass over the ballots.
func BenchmarkCount100000(b *testing.B) {
	p := programtest.LaidOut(b, programtest.PublicVote)
	p.Crowd(`
		INSERT INTO application (round_id, ref, title, created_at) SELECT round_id, 'SPR-9' || g, 'Work ' || g, created_at
		FROM application, generate_series(1, 55) g WHERE ref = $1;
		INSERT INTO relation (application_id, account_id, kind) SELECT id, $2, 'lead' FROM application WHERE ref LIKE 'SPR-9%';
		INSERT INTO entry (application_id, stage, design_id, state, state_at, seal_id) SELECT a.id, e.stage, e.design_id, e.state, e.state_at, e.seal_id
		FROM application a, (SELECT * FROM entry ORDER BY id LIMIT 1) e WHERE a.ref LIKE 'SPR-9%';
		INSERT INTO vote_project (round_id, entry_id, seal_id, number, title, cost, shown, pictures, ruling)
		SELECT a.round_id, e.id, e.seal_id, 5 + row_number() OVER (ORDER BY e.id), a.title, 500000 + (e.id * 7919) % 9500000, '[]', '[]', 'shown'
		FROM entry e JOIN application a ON a.id = e.application_id WHERE a.ref LIKE 'SPR-9%';
		SELECT setseed(0.21);
		INSERT INTO ballot (round_id, key, receipt, choice, day)
		SELECT $3, decode(md5(g::text), 'hex'), upper(substr(md5('r' || g), 1, 14)),
		  ARRAY(SELECT DISTINCT least(floor(random() * 60), floor(random() * 60))::int FROM generate_series(1, 1 + g % 10)), '2027-06-02' FROM generate_series(1, 100000) g`,
		p.Of["A"].Ref, p.Of["A"].LeadID, p.Round.ID)
	p.Clock.Set(p.Form.VoteWindow().Closes.Add(time.Hour))
	for b.Loop() {
		begun := time.Now()
		var n int64
		if err := p.DB.Get(&n, `SELECT sum(cardinality(choice) + length(receipt)) FROM ballot`); err != nil {
			b.Fatal(err)
		}
		pass := time.Since(begun)
		begun = time.Now()
		p.Do(func(ctx context.Context, tx *db.Tx) error {
			n, err := p.Ballots.Count(ctx, tx, p.Round, p.Form)
			if n != 100_000 {
				b.Fatal(n)
			}
			return err
		})
		b.ReportMetric(float64(time.Since(begun).Milliseconds()), "ms")
		b.ReportMetric(float64(time.Since(begun))/float64(pass), "ratio")
	}
}

// 2,000 ballots put into the box over HTTP while people save applications, and what one
// save takes meanwhile beside what it takes alone.
func BenchmarkBallotsWhileSaving(b *testing.B) {
	p := programtest.LaidOut(b, programtest.PublicVote)
	p.OpenRound(p.Officer, func(d *form.Design) {
		programtest.Short(d)
		d.Key, d.Name, d.Prefix = "later-2027", "Later in the year", "LTR"
		for i := range d.Calendar {
			d.Calendar[i].At.Date = d.Calendar[i].At.Date.AddDays(150)
		}
		opens := slices.IndexFunc(d.Calendar, func(m form.Moment) bool { return m.Key == form.Opens })
		d.Calendar[opens].At = calendar.At(calendar.NewDate(2027, 5, 1), 9, 0)
	})
	_, base := webtest.Serve(b, p.House)
	save := saver(b, p.House, base, "later-2027", "all")
	var alone []time.Duration
	for range 200 {
		alone = append(alone, save())
	}
	const many, hands = 2000, 8
	round := 0
	for b.Loop() {
		round++
		tokens := make([]ballot.Token, many)
		for i := range tokens {
			tokens[i] = ballot.Token(fmt.Sprintf("bench-%d-%d", round, i))
			p.Ballots.Draw = func() ballot.Token { return tokens[i] }
			if err := p.Try(0, func(ctx context.Context, tx *db.Tx) error {
				return p.Ballots.Ask(ctx, tx, p.Round, p.Form, p.Vote(), fmt.Sprintf("v%d@place%d-%d.example", i, round, i),
					fmt.Sprintf("203.%d.%d.1", i%250, i/250))
			}); err != nil {
				b.Fatal(err)
			}
		}
		p.Ballots.Draw = nil
		var next atomic.Int64
		var done sync.WaitGroup
		begun := time.Now()
		for range hands {
			v := webtest.Visit(b, base)
			token := v.Token()
			done.Go(func() {
				for i := next.Add(1) - 1; i < many; i = next.Add(1) - 1 {
					form := url.Values{"form_token": {token}, "named": {fmt.Sprint(1 + i%5), fmt.Sprint(1 + (i+2)%5)}}
					if code, body := v.SendJSON("/ballot/"+string(tokens[i]), "application/x-www-form-urlencoded", form.Encode(),
						nil); code != http.StatusSeeOther {
						b.Error(code, body)
						return
					}
				}
			})
		}
		var beside []time.Duration
		cast := make(chan struct{})
		go func() { done.Wait(); close(cast) }()
		for open := true; open; {
			select {
			case <-cast:
				open = false
			default:
				beside = append(beside, save())
			}
		}
		all := time.Since(begun)
		b.ReportMetric(float64(many)/all.Minutes(), "ballots/min")
		b.ReportMetric(float64(median(beside).Microseconds())/1000, "save-ms")
		b.ReportMetric(float64(median(beside))/float64(median(alone)), "save-ratio")
		b.ReportMetric(float64(len(beside))/all.Seconds(), "saves/s")
	}
}
