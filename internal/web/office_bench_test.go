package web_test

import (
	"net/url"
	"strings"
	"testing"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/demo"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// multiply makes many of each of a round's cases, with all that lists and counts
// read of them: what is asked of the pages is how they stand a crowd.
const multiply = `
CREATE TEMP TABLE copied AS SELECT a.id AS was, row_number() OVER () AS n, a.id * 0 AS id FROM application a JOIN round r ON r.id = a.round_id, generate_series(1, $1) WHERE (r.key = $2) = $3;
WITH made AS (INSERT INTO application (ref, round_id, title, created_at, profile_id)
  SELECT 'M' || a.round_id || '-' || c.n, a.round_id, a.title || ' ' || c.n, a.created_at, a.profile_id FROM copied c JOIN application a ON a.id = c.was ORDER BY c.n RETURNING id, ref)
UPDATE copied c SET id = m.id FROM made m WHERE split_part(m.ref, '-', 2)::int = c.n;
INSERT INTO relation SELECT c.id, x.account_id, x.kind FROM copied c JOIN relation x ON x.application_id = c.was;
INSERT INTO entry (application_id, stage, design_id, state, state_at, seal_id) SELECT c.id, e.stage, e.design_id, e.state, e.state_at, e.seal_id FROM copied c JOIN entry e ON e.application_id = c.was;
CREATE TEMP TABLE entered AS SELECT e.id AS was, n.id, c.id AS app FROM copied c JOIN entry e ON e.application_id = c.was JOIN entry n ON n.application_id = c.id AND n.stage = e.stage;
INSERT INTO standing SELECT (jsonb_populate_record(s, jsonb_build_object('entry_id', n.id, 'application_id', n.app))).* FROM entered n JOIN standing s ON s.entry_id = n.was;
INSERT INTO finding SELECT (jsonb_populate_record(f, jsonb_build_object('entry_id', n.id))).* FROM entered n JOIN finding f ON f.entry_id = n.was;
INSERT INTO assignment SELECT (jsonb_populate_record(g, jsonb_build_object('entry_id', n.id, 'application_id', n.app))).* FROM entered n JOIN assignment g ON g.entry_id = n.was;
INSERT INTO mark SELECT (jsonb_populate_record(m, jsonb_build_object('entry_id', n.id))).* FROM entered n JOIN mark m ON m.entry_id = n.was;
INSERT INTO trail (at, by_kind, by_id, verb, application_id, round_id, figures) SELECT t.at, t.by_kind, t.by_id, t.verb, c.id, t.round_id, t.figures FROM copied c JOIN trail t ON t.application_id = c.was;
DROP TABLE copied, entered;`

// The office's pages with 10,000 applications in the open round and 100,000 on
// the site. The bare bound is the grouped count of the round's rows.
func BenchmarkOfficePagesAt100000(b *testing.B) {
	h := programtest.Demo(b)
	var open, read string // the rounds where most is written, and where most is read
	for key, state := range map[*string]lifecycle.State{&open: lifecycle.Draft, &read: lifecycle.Read} {
		if err := h.DB.Get(key,
			`SELECT r.key FROM round r JOIN standing s ON s.round_id = r.id WHERE s.state = $1 GROUP BY r.key ORDER BY count(*) DESC LIMIT 1`, state); err != nil {
			b.Fatal(err)
		}
	}
	h.Crowd(multiply, 340, open, true)
	h.Crowd(multiply, 667, read, true)
	h.Crowd(strings.Replace(multiply, "(r.key = $2) = $3", "r.key NOT IN ($2, $3)", 1), 2200, open, read)
	var all, inRound int
	if err := h.DB.QueryRow(`SELECT count(*), count(*) FILTER (WHERE r.key = $1) FROM application a JOIN round r ON r.id = a.round_id`, open).Scan(&all, &inRound); err != nil {
		b.Fatal(err)
	}
	b.Logf("%d on the site, %d in the round", all, inRound)
	var bare time.Duration
	b.Run("bare count", func(b *testing.B) {
		for b.Loop() {
			if _, err := h.DB.Exec(`SELECT state, count(*) FROM standing s JOIN round r ON r.id = s.round_id WHERE r.key = $1 GROUP BY state`, open); err != nil {
				b.Fatal(err)
			}
		}
		bare = b.Elapsed() / time.Duration(b.N)
	})
	_, base := webtest.Serve(b, h)
	v := webtest.Visit(b, base)
	if code, body := v.Submit("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"},
		"password": {demo.Password}}); code != 303 {
		b.Fatal(code, body)
	}
	read = "/office/rounds/" + read
	for _, path := range []string{"/office", "/office/rounds", "/office/rounds/" + open,
		"/office/rounds/" + open + "/applications", "/office/rounds/" + open + "/applications?if=state~is~draft&sort=title",
		"/office/rounds/" + open + "/checks", "/office/rounds/" + open + "/rescue", "/office/rounds/" + open +
			"/care", "/office/rounds/" + open + "/watch", "/office/rounds/" + open + "/checks/all",
		"/office/rounds/" + open + "/checks/people", "/office/rounds/" + open + "/checks/texts", read, read + "/watch",
		read + "/reading", read + "/decisions", "/office/find?q=marsh", "/"} {
		b.Run(path, func(b *testing.B) {
			size := 0
			for b.Loop() {
				code, body := v.See(path)
				if code != 200 {
					b.Fatal(code, body)
				}
				size = len(body)
			}
			b.ReportMetric(float64(b.Elapsed()/time.Duration(b.N))/float64(bare), "ratio")
			b.ReportMetric(float64(size)/1000, "kB")
		})
	}
}
