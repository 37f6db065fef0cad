package web_test

import (
	"context"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"ulvant/core/lifecycle"
	"ulvant/demo"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// growing are the tables that grow with every application or account: no page may
// read one whole to show a part of it.
var growing = []string{"account", "application", "entry", "standing", "relation", "answer", "seal", "material",
	"rendition", "shelved",
	"referee", "finding", "assignment", "mark", "trail", "post", "decision", "session", "link",
	"known", "label", "note", "bulked", "fee_wish", "candidate", "fit", "placed", "award_ruling", "award_hand", "awarded"}

var scanned = regexp.MustCompile(`Seq Scan on (\w+)`)

// Every statement behind the pages of the office, of an applicant and of a reader
// can find its rows by index: with reading a table whole made dear, whatever the
// tables' sizes, PostgreSQL does it nowhere. And a page that misses what one of its
// statements would have said is not shown as if there were nothing.
func TestEveryListReadsByIndex(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	var open, read, learners string
	if err := h.DB.Get(&learners, `SELECT key FROM round WHERE key LIKE 'yard-learners%'`); err != nil {
		t.Fatal(err)
	}
	for key, state := range map[*string]lifecycle.State{&open: lifecycle.Draft, &read: lifecycle.Read} {
		if err := h.DB.Get(key,
			`SELECT r.key FROM round r JOIN standing s ON s.round_id = r.id WHERE s.state = $1 AND r.key LIKE 'shore%' GROUP BY r.key ORDER BY count(*) DESC LIMIT 1`, state); err != nil {
			t.Fatal(err)
		}
	}
	type statement struct {
		sql  string
		args []any
		page string
		v    *webtest.Visitor
	}
	var mu sync.Mutex
	var page string
	var visitor *webtest.Visitor
	asked := map[string]statement{}
	h.DB.Statements.Watch(func(sql string, args []any) {
		mu.Lock()
		defer mu.Unlock()
		if _, seen := asked[sql]; !seen && page != "" && strings.Contains(sql, "SELECT") {
			asked[sql] = statement{sql, args, page, visitor}
		}
	})
	_, base := webtest.Serve(t, h)
	at := func(round string) []string {
		r := "/office/rounds/" + round
		return []string{r, r + "/applications", r + "/applications?sort=asked", r +
			"/applications?if=state~is~draft&if=find~has~reed",
			r + "/applications?cols=labels,notes,carer,lacks&if=labels~there~", r +
				"/applications?if=q.repair-kind~is~peat&sort=-q.area",
			r + "/checks", r + "/costs", r + "/asked", r + "/asked/remind?show=awaited",
			r + "/asked?who=sunniva.lake@referees.example", r + "/rescue", r + "/care", r + "/reading", r + "/light", r +
				"/decisions", r + "/questions", r + "/design"}
	}
	for who, pages := range map[string][]string{
		"neda.sparrow@ostrel-trust.example": slices.Concat([]string{"/office", "/office/rounds",
			"/office/find?q=marsh", "/office/profiles", "/office/security"}, at(open), at(read),
			[]string{"/office/rounds/" + learners + "/placing?award=widows-fund",
				"/office/rounds/" + learners + "/placing?show=say", "/office/rounds/" + learners + "/placing/compare"}),
		"imre.calloway@corvoe-foreshore-common.example": {"/applications", "/profiles", "/account", "/", "/shelf", "/asked"},
		"oriel.vane@readers.example":                    {"/reading"},
		"teodora.brisk@readers.example":                 {"/reading", "/reading/light"},
	} {
		v := webtest.Visit(t, base)
		if code, body := v.Submit("/sign-in", url.Values{"email": {who}, "password": {demo.Password}}); code != 303 {
			t.Fatal(code, body)
		}
		for _, p := range pages {
			mu.Lock()
			page, visitor = p, v
			mu.Unlock()
			if code, body := v.See(p); code != 200 {
				t.Fatalf("%s: %d %s", p, code, body)
			}
		}
	}
	h.DB.Statements.Watch(nil)
	if len(asked) < 40 {
		t.Fatalf("only %d statements were seen", len(asked))
	}
	for _, s := range asked {
		var met atomic.Bool // not where what it said is known by now
		h.DB.Statements.Refuse(func(sql string) bool {
			if sql == s.sql {
				met.Store(true)
			}
			return sql == s.sql
		})
		code, _ := s.v.See(s.page)
		h.DB.Statements.Refuse(nil)
		if code < 500 && met.Load() {
			t.Errorf("%s is shown (%d) although this failed:\n%s", s.page, code, strings.TrimSpace(s.sql))
		}
	}
	tx, err := h.DB.Pool.Begin(t.Context())
	if err == nil {
		_, err = tx.Exec(t.Context(), "SET LOCAL enable_seqscan = off")
	}
	if err != nil {
		t.Fatal(err)
	}
	defer tx.Rollback(context.Background())
	found := false
	asked["planted"] = statement{`SELECT id FROM application WHERE title = 'x'`, nil, "planted", nil}
	for _, s := range asked {
		rows, err := tx.Query(t.Context(), "EXPLAIN "+s.sql, s.args...)
		if err != nil {
			t.Fatalf("%s: %v\n%s", s.page, err, s.sql)
		}
		for rows.Next() {
			var line string
			if err := rows.Scan(&line); err != nil {
				t.Fatal(err)
			}
			if m := scanned.FindStringSubmatch(line); m != nil && slices.Contains(growing, m[1]) {
				if s.page == "planted" {
					found = true
					continue
				}
				t.Errorf("%s reads the table %s whole:\n%s", s.page, m[1], strings.TrimSpace(s.sql))
			}
		}
		if err := rows.Err(); err != nil {
			t.Errorf("%s: %v\n%s", s.page, err, s.sql)
		}
	}
	if !found {
		t.Error("a statement without an index is not found out")
	}
}
