package desk_test

import (
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/register"
	"ulvant/internal/desk"
	"ulvant/internal/platform/dbtest"
	"ulvant/internal/programtest"
	"ulvant/internal/round"
)

// crowd fills a database with rounds and applications, as the owner of its
// tables; only how lists are read is of interest here, not how rows came.
var crowd = crowdOf(20000)

func crowdOf(n int) string {
	return strings.ReplaceAll(`
INSERT INTO account (email, name, password_hash, created_at) SELECT 'a' || i || '@x.example', 'Person ' || i, '', '2027-03-01' FROM generate_series(1, N) i;
INSERT INTO round (key, name, programme, currency, working, opens_at, closes_at, answer_at, created_at, changed_at)
  SELECT 'round-' || i, 'Round ' || i, 'P', 'EUR', '{}', '2027-03-01', '2027-04-01', '2027-05-01', '2027-02-01', '2027-02-01' FROM generate_series(1, 40) i;
INSERT INTO design (round_id, number, document, sha256, published_at, published_by) SELECT id, 1, '{}', '', '2027-02-01', 1 FROM round;
INSERT INTO application (ref, round_id, title, created_at) SELECT 'R-' || i, 1 + i % 40, 'Title ' || i, '2027-03-02' FROM generate_series(1, N) i;
INSERT INTO relation (application_id, account_id, kind) SELECT id, id, 'lead' FROM application;
INSERT INTO entry (application_id, stage, design_id, state, state_at) SELECT a.id, 'writing', d.id, 'draft', '2027-03-02' FROM application a JOIN design d ON d.round_id = a.round_id;
INSERT INTO standing (entry_id, round_id, application_id, state, move, obstacles, done, required, verdict, changed_at)
  SELECT e.id, a.round_id, a.id, CASE WHEN a.id % 3 = 0 THEN 'draft' ELSE 'complete' END, 'office', '{}', 1, 2, 'yes', '2027-03-02' FROM entry e JOIN application a ON a.id = e.application_id;
UPDATE standing st SET words = to_tsvector('simple', regexp_replace(a.title || ' ' || p.name || ' ' || p.email, '[^[:alnum:]]+', ' ', 'g')) FROM application a JOIN account p ON p.id = a.id WHERE a.id = st.application_id;
ANALYZE;`, "N)", fmt.Sprint(n)+")")
}

// The register reads a round's rows by index, however many rounds
// there are: no page of it scans a whole table that grows.
func TestRegisterReadsByIndex(t *testing.T) {
	app, owner := dbtest.New(t)
	dbtest.Exec(t, owner, crowd)
	h := programtest.On(t, app, t.TempDir(), nil)
	scan := regexp.MustCompile(`Seq Scan on (standing|application|relation|account|entry)`)
	for what, conditions := range map[string][]string{"all of a round": nil, "one state": {"state~is~draft"},
		"a fact": {"q.any~there~"}, "words": {"find~has~title 17"}} {
		for _, sort := range []string{"", "asked", "lead", "sent"} {
			q := desk.Sought{Round: 7, Columns: append(register.Of(nil), register.Column{Key: "asked", Type: register.Money},
				register.Column{Key: "q.any", Type: register.Words}), Zone: time.UTC, Most: 50,
				Shape: register.Shape{Sort: sort, Columns: []string{"lead", "state", "asked", "q.any"}}}
			for _, text := range conditions {
				c, err := register.ParseCondition(text, q.Columns)
				if err != nil {
					t.Fatal(err)
				}
				q.Shape.Filter = append(q.Shape.Filter, c)
			}
			sql, args, err := desk.RegisterSQL(q)
			if err != nil {
				t.Fatal(err)
			}
			var plan []string
			if err := h.DB.Select(&plan, `EXPLAIN `+sql, args); err != nil {
				t.Fatalf("%s: %v\n%s", what, err, sql)
			}
			if text := strings.Join(plan, "\n"); scan.MatchString(text) {
				t.Errorf("%s, sorted %q, scans a table:\n%s", what, sort, text)
			}
		}
	}
}

// Finding by a number's beginning or by words reads by index too.
func TestFindReadsByIndex(t *testing.T) {
	app, owner := dbtest.New(t)
	dbtest.Exec(t, owner, crowd)
	h := programtest.On(t, app, t.TempDir(), nil)
	scan := regexp.MustCompile(`Seq Scan on (standing|application|relation|account|entry)`)
	for what, args := range map[string][]any{"a word": {"", "title:* & 17:*", 50, nil},
		"a number's beginning": {"R-17", "r:* & 17:*", 50, nil}} {
		var plan []string
		if err := h.DB.Select(&plan, `EXPLAIN `+desk.FindSQL, args...); err != nil {
			t.Fatal(err)
		}
		if text := strings.Join(plan, "\n"); scan.MatchString(text) {
			t.Errorf("%s scans a table:\n%s", what, text)
		}
	}
	for text, want := range map[string]string{"Title 19321": "R-19321", "R-19321": "R-19321", "pers 19321": "R-19321",
		"a19321@x.example": "R-19321"} {
		f, err := h.Desk.Find(t.Context(), nil, text, 50)
		if err != nil || len(f.Items) == 0 || f.Items[0].Ref != want {
			t.Errorf("%q finds %+v %v", text, f.Items, err)
		}
	}
}

// Kept to some rounds, finding fills its page from those alone, by a rare word, a
// common one, and the beginning of a number.
func TestFindInSomeRounds(t *testing.T) {
	app, owner := dbtest.New(t)
	dbtest.Exec(t, owner, crowdOf(6000))
	h := programtest.On(t, app, t.TempDir(), nil)
	for _, text := range []string{"pers", "title 17", "R-17"} {
		f, err := h.Desk.Find(t.Context(), round.Only{7}, text, 200)
		if err != nil || len(f.Items) == 0 {
			t.Fatalf("%q finds %d in round 7: %v", text, len(f.Items), err)
		}
		for _, it := range f.Items {
			if it.RoundID != 7 {
				t.Errorf("%q finds %s of round %d", text, it.Ref, it.RoundID)
			}
		}
	}
	if f, err := h.Desk.Find(t.Context(), round.Only{}, "pers", 50); err != nil || len(f.Items)+len(f.Rounds) != 0 {
		t.Errorf("in no round %d are found: %v", len(f.Items), err)
	}
}

// Finding among 100,000 applications; docs/performance.md holds what it took.
func BenchmarkFindAmong100000(b *testing.B) {
	app, owner := dbtest.New(b)
	dbtest.Exec(b, owner, crowdOf(100_000))
	h := programtest.On(b, app, b.TempDir(), nil)
	dbtest.Exec(b, owner, `VACUUM ANALYZE standing`) // what autovacuum does: the index's list of things to add is empty
	dbtest.Exec(b, owner, `VACUUM ANALYZE account`)
	for text, query := range map[string]string{"Title 93217": "title:* & 93217:*", "pers": "pers:*",
		"R-932": "r:* & 932:*", "no such thing": "no:* & such:* & thing:*"} {
		b.Run(text, func(b *testing.B) {
			for b.Loop() {
				if _, err := h.Desk.Find(b.Context(), nil, text, 50); err != nil {
					b.Fatal(err)
				}
			}
			begun, times := time.Now(), 5
			for range times { // the least it takes: the same words looked up where they are looked for, and counted
				if _, err := h.DB.Exec(`SELECT (SELECT count(*) FROM standing WHERE words @@ to_tsquery('simple', $1)), (SELECT count(*) FROM account WHERE words @@ to_tsquery('simple', $1))`, query); err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(float64(b.Elapsed()/time.Duration(b.N))/float64(time.Since(begun)/time.Duration(times)), "ratio")
		})
	}
}

// Counting what waits for the office among 100,000 applications, as Today does,
// against the barest grouped count of the same rows.
func BenchmarkTodayAt100000(b *testing.B) {
	app, owner := dbtest.New(b)
	dbtest.Exec(b, owner, crowdOf(100_000))
	h := programtest.On(b, app, b.TempDir(), nil)
	var bare time.Duration
	b.Run("bare count", func(b *testing.B) {
		for b.Loop() {
			if _, err := h.DB.Exec(`SELECT round_id, state, count(*) FROM standing GROUP BY round_id, state`); err != nil {
				b.Fatal(err)
			}
		}
		bare = b.Elapsed() / time.Duration(b.N)
	})
	b.Run("Today", func(b *testing.B) {
		for b.Loop() {
			if _, err := h.Desk.Pending(b.Context(), 0); err != nil {
				b.Fatal(err)
			}
			if _, err := h.Desk.OpenChecksOf(b.Context(), 0); err != nil {
				b.Fatal(err)
			}
		}
		b.ReportMetric(float64(b.Elapsed()/time.Duration(b.N))/float64(bare), "ratio")
	})
}

// Turning the pages of every order shows each application once.
func TestPagesShowEachApplicationOnce(t *testing.T) {
	app, owner := dbtest.New(t)
	dbtest.Exec(t, owner,
		crowd+`UPDATE standing SET asked = application_id % 7, sent_at = timestamptz '2027-03-03' + (application_id % 5) * interval '1 hour' WHERE application_id % 2 = 0;`)
	h := programtest.On(t, app, t.TempDir(), nil)
	for _, sort := range []string{"", "asked", "sent", "changed", "lead", "place", "carer", "labels", "verdict",
		"readers"} {
		for _, down := range []bool{false, true} {
			seen := map[int64]bool{}
			q := desk.Sought{Round: 7, Columns: append(register.Of(nil), register.Column{Key: "asked", Type: register.Money}),
				Today: calendar.NewDate(2027, 3, 20), Zone: time.UTC, Most: 60,
				Shape: register.Shape{Sort: sort, Down: down}}
			for ; ; q.Offset += 60 {
				rows, err := h.Desk.Register(t.Context(), q)
				if err != nil {
					t.Fatalf("%s: %v", sort, err)
				}
				for _, x := range rows {
					if seen[x.AppID] {
						t.Fatalf("sorted %q: application %d is shown twice", sort, x.AppID)
					}
					seen[x.AppID] = true
				}
				if len(rows) < 60 {
					break
				}
			}
			if len(seen) != 500 {
				t.Errorf("sorted %q: %d of 500 are shown", sort, len(seen))
			}
		}
	}
}
