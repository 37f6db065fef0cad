package web_test

import (
	"context"
	"fmt"
	"net/url"
	"runtime"
	"testing"
	"time"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// hundreds of awards: each for a band of what is lacking, so that one in a hundred
// meets it; the first is met by one in five.
func hundreds(d *form.Design) {
	programtest.ManyAwards(d)
	lacks := func(rel condition.Rel, euros int64) condition.Cond {
		return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "lacks"}, Rel: rel,
			Value: &condition.Value{Number: &condition.Number{Num: 100 * euros}}}}
	}
	d.Awards = nil
	for i := range int64(400) {
		from, upto := 1000+(i*37)%9900, 1000+(i*37)%9900+100
		if i == 0 {
			from, upto = 1000, 3000
		}
		d.Awards = append(d.Awards, form.Award{Key: form.Key(fmt.Sprintf("award-%d", i)),
			Label: fmt.Sprintf("Award %d", i+1), Places: 1 + int(i%5),
			Purse: 300_00 + 100_00*(i%30), Match: condition.Cond{All: []condition.Cond{lacks(condition.AtLeast, from),
				lacks(condition.AtMost, upto)}}})
	}
	d.Placing.Most, d.Fund = 3, 100_000_000_00
}

// Ten thousand people against four hundred awards: read against every award and placed
// three ways (a job), beside one pass over what they sent; then the pages.
func BenchmarkPlacing10000(b *testing.B) {
	p := programtest.SentToRound(b, hundreds,
		map[string]string{"Ann": "8,000|mark = 5|lacks = 1,234|reasons = I sew.|sews = yes"})
	p.StateOf("Ann")
	for _, sql := range []string{
		`INSERT INTO application (ref, round_id, title, created_at) SELECT 'M-' || i, round_id, 'Work ' || i, created_at FROM application, generate_series(1, 9999) i WHERE id = $1`,
		`INSERT INTO relation (application_id, account_id, kind) SELECT m.id, l.account_id, 'lead' FROM application m, relation l WHERE m.ref LIKE 'M-%' AND l.application_id = $1`,
		`INSERT INTO entry (application_id, stage, design_id, state, state_at) SELECT m.id, e.stage, e.design_id, e.state, e.state_at FROM application m, entry e WHERE m.ref LIKE 'M-%' AND e.application_id = $1`,
		`INSERT INTO seal (entry_id, number, at, by_id, document, sha256, signature)
		 SELECT e.id, 1, s.at, s.by_id, convert_to(replace(replace(convert_from(s.document, 'UTF8'), '"1,234"', '"' || (1000 + e.id * 7919 % 10000) || '"'), '"value":"5"', '"value":"' || (e.id % 6) || '"'), 'UTF8'),
		        s.sha256, s.signature FROM entry e JOIN application m ON m.id = e.application_id, seal s WHERE m.ref LIKE 'M-%' AND s.entry_id = (SELECT id FROM entry WHERE application_id = $1)`,
		`UPDATE entry e SET seal_id = s.id FROM seal s WHERE s.entry_id = e.id AND e.application_id <> $1`,
		`INSERT INTO standing SELECT (jsonb_populate_record(s, jsonb_build_object('entry_id', e.id, 'application_id', m.id))).* FROM application m JOIN entry e ON e.application_id = m.id, standing s WHERE m.ref LIKE 'M-%' AND s.application_id = $1`,
	} {
		if _, err := p.DB.Exec(sql, p.Of["Ann"].ID); err != nil {
			b.Fatal(err, sql)
		}
	}
	if _, err := p.DB.Exec(`ANALYZE`); err != nil {
		b.Fatal(err)
	}
	p.Clock.Set(p.Form.At(form.Closes).Add(time.Hour))
	b.Run("worked out and placed", func(b *testing.B) {
		for b.Loop() {
			begun := time.Now()
			var n int64
			if err := p.DB.Get(&n,
				`SELECT sum(length(convert_from(d.document, 'UTF8'))) FROM entry e JOIN seal d ON d.id = e.seal_id`); err != nil {
				b.Fatal(err)
			}
			pass := time.Since(begun)
			var before, after runtime.MemStats
			runtime.GC()
			runtime.ReadMemStats(&before)
			begun = time.Now()
			p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
				n, err := p.Awards.WorkOut(ctx, tx, p.Round, p.Form, nil)
				if n != 10000 {
					b.Fatal(n)
				}
				return err
			})
			took := time.Since(begun)
			runtime.ReadMemStats(&after)
			b.ReportMetric(float64(took)/float64(pass), "passes")
			b.ReportMetric(float64(after.HeapSys-before.HeapSys)/1e6, "MB-more")
		}
	})
	list, err := p.Awards.Placings(b.Context(), p.DB, p.Round.ID)
	if err != nil {
		b.Fatal(err)
	}
	for _, x := range list {
		b.Logf("%s: %d places to %d people, proved %v, gap %d", x.Name, x.Given, x.People, x.Proved(), x.Gap())
	}
	b.Run("placed once more", func(b *testing.B) {
		for b.Loop() {
			p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
				return p.Awards.Solve(ctx, tx, p.Round, p.Form, list[0].ID)
			})
		}
	})
	_, base := webtest.Serve(b, p.House)
	v := webtest.Visit(b, base)
	v.Submit("/sign-in", url.Values{"email": {"neda@ostrel-trust.example"}, "password": {programtest.Password}})
	var many string
	if err := p.DB.Get(&many,
		`SELECT a.ref FROM fit x JOIN entry e ON e.id = x.entry_id JOIN application a ON a.id = e.application_id GROUP BY a.ref ORDER BY count(*) DESC LIMIT 1`); err != nil {
		b.Fatal(err)
	}
	for _, page := range []struct{ name, query string }{{"award with 2,000", "?award=award-0"},
		{"person", "?award=award-0&person=" + many}} {
		b.Run("page of an "+page.name, func(b *testing.B) {
			for b.Loop() {
				if code, body := v.See("/office/rounds/shore-2027/placing" + page.query); code != 200 ||
					!webtest.Contains(body, "places") {
					b.Fatal(code)
				}
			}
		})
	}
}
