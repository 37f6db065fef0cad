package web_test

import (
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Keeping one answer over HTTP against the bare SQL that it cannot do without:
// the session and the case looked up, the row locked, the answer and standing
// written, in one transaction at the same durability. docs/performance.md says
// how to read the ratio.
func BenchmarkKeepOneAnswer(b *testing.B) {
	h := programtest.New(b)
	_, base := webtest.Serve(b, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(b, base).As("imre@corvoe.example")
	token := v.Token()
	header := map[string]string{"Accept": "application/json", "X-Form-Token": token}
	path := "/applications/" + c.Ref + "/answers"
	var overHTTP time.Duration
	b.Run("over HTTP", func(b *testing.B) {
		version := version(b, h, c.EntryID)
		for i := 0; b.Loop(); i++ {
			code, body := v.SendJSON(path, "application/json",
				fmt.Sprintf(`{"section":"work","edits":[{"question":"describe","version":%d,"edit":"http-%d-%d","value":"Reed %d."}]}`, version+i, version, i, version+i), header)
			if code != 200 {
				b.Fatal(code, body)
			}
		}
		overHTTP = b.Elapsed() / time.Duration(b.N)
	})
	b.Run("bare SQL", func(b *testing.B) {
		version := version(b, h, c.EntryID)
		for i := 0; b.Loop(); i++ {
			tx, err := h.DB.Beginx()
			if err != nil {
				b.Fatal(err)
			}
			for _, q := range []struct {
				sql  string
				args []any
			}{
				{`SELECT account_id FROM session LIMIT 1`, nil},
				{`SELECT id FROM application WHERE ref = $1 FOR SHARE`, []any{c.Ref}},
				{`UPDATE answer SET version = $2, value = $3, edit_id = $4 WHERE entry_id = $1 AND question = 'describe' AND row_key = '' AND column_key = ''`,
					[]any{c.EntryID, version + i + 1, fmt.Sprintf("Reed %d.", version+i), fmt.Sprintf("sql-%d-%d", version, i)}},
				{`UPDATE standing SET done = done + 1, changed_at = $2 WHERE entry_id = $1`, []any{c.EntryID, h.Clock.Now()}},
			} {
				if _, err := tx.Exec(q.sql, q.args...); err != nil {
					b.Fatal(err)
				}
			}
			if err := tx.Commit(); err != nil {
				b.Fatal(err)
			}
		}
		if overHTTP > 0 {
			b.ReportMetric(float64(overHTTP)/float64(b.Elapsed()/time.Duration(b.N)), "ratio")
		}
	})
	b.Run("pgbench, one prepared UPDATE", func(b *testing.B) {
		one := pgbench(b, h.Config.DatabaseURL,
			fmt.Sprintf(`UPDATE answer SET version = version + 1, value = 'Reed.' WHERE entry_id = %d AND question = 'describe' AND row_key = '' AND column_key = ''`, c.EntryID), 20*b.N)
		b.ReportMetric(float64(one.Nanoseconds()), "ns/op")
		if overHTTP > 0 {
			b.ReportMetric(float64(overHTTP)/float64(one), "ratio")
		}
	})
}

var averaged = regexp.MustCompile(`latency average = ([0-9.]+) ms`)

// pgbench runs a statement so many times, prepared, by one client, and answers
// how long one took.
func pgbench(b *testing.B, url, statement string, times int) time.Duration {
	b.Helper()
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/pgbench")
	if len(found) == 0 {
		b.Skip("pgbench is not installed")
	}
	script := filepath.Join(b.TempDir(), "update.sql")
	if err := os.WriteFile(script, []byte(statement+";\n"), 0o600); err != nil {
		b.Fatal(err)
	}
	out, err := exec.Command(found[len(found)-1], "-n", "-M", "prepared", "-c", "1", "-t", strconv.Itoa(max(times, 1000)),
		"-f", script, url).CombinedOutput()
	m := averaged.FindSubmatch(out)
	if err != nil || m == nil {
		b.Fatal(err, string(out))
	}
	ms, _ := strconv.ParseFloat(string(m[1]), 64)
	return time.Duration(ms * float64(time.Millisecond))
}

func version(b *testing.B, h *programtest.House, entry int64) (n int) {
	b.Helper()
	if err := h.DB.Get(&n, `SELECT version FROM answer WHERE entry_id = $1 AND question = 'describe'`, entry); err != nil {
		b.Fatal(err)
	}
	return n
}

// One edit of a design of 200 questions, as the page makes it: the change kept,
// and the whole page drawn again.
func BenchmarkEditOf200Questions(b *testing.B) {
	h := programtest.New(b)
	_, base := webtest.Serve(b, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		more := form.Section{Key: "more", Label: "More"}
		for i := 0; i < 200-30; i++ {
			q := d.Sections[2].Questions[3] // a long text with a case of limits
			q.Key = form.Key(fmt.Sprintf("more-%d", i))
			more.Questions = append(more.Questions, q)
		}
		d.Sections = append(d.Sections, more)
	})
	v := webtest.Visit(b, base).As("neda@ostrel-trust.example")
	const page, at = "/office/rounds/shore-2027/design", "sections/more/questions/more-150"
	token := v.Token()
	was := "Describe the work and how you will know it held"
	for i := 0; b.Loop(); i++ {
		label := fmt.Sprintf("Describe it, %d", i)
		form := url.Values{"form_token": {token}, "path": {at}, "was:label": {webtest.ToJSON(was)}, "label": {label}}
		if code, body := v.SendJSON(page, "application/x-www-form-urlencoded", form.Encode(), nil); code != 303 {
			b.Fatal(code, body)
		}
		if code, body := v.See(page + "?path=" + at); code != 200 || !webtest.Contains(body, label) {
			b.Fatal(code)
		}
		was = label
	}
}
