package web_test

import (
	"context"
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
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
			code, body := v.SendJSON(
				path,
				"application/json",
				fmt.Sprintf(
					`{"section":"work","edits":[{"question":"describe","version":%d,"edit":"http-%d-%d","value":"Reed %d."}]}`,
					version+i,
					version,
					i,
					version+i,
				),
				header,
			)
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
		one := pgbench(
			b,
			h.Config.DatabaseURL,
			fmt.Sprintf(
				`UPDATE answer SET version = version + 1, value = 'Reed.' WHERE entry_id = %d AND question = 'describe' AND row_key = '' AND column_key = ''`,
				c.EntryID,
			),
			20*b.N,
		)
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
	out, err := exec.Command(
		found[len(found)-1],
		"-n",
		"-M",
		"prepared",
		"-c",
		"1",
		"-t",
		strconv.Itoa(max(times, 1000)),
		"-f",
		script,
		url,
	).CombinedOutput()
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

// saver begins an application in a round and gives back what saves one answer of it over
// HTTP and says how long that took.
func saver(b *testing.B, h *programtest.House, base, round, section string) func() time.Duration {
	b.Helper()
	lead := h.Person("saver@corvoe.example", "Imre Calloway")
	var c application.Case
	h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		c, err = h.Intake.Start(ctx, tx, round, "Reed beds", nil)
		return err
	})
	v := webtest.Visit(b, base).As("saver@corvoe.example")
	header := map[string]string{"Accept": "application/json", "X-Form-Token": v.Token()}
	version := 0
	return func() time.Duration {
		begun := time.Now()
		code, body := v.SendJSON("/applications/"+c.Ref+"/answers", "application/json", fmt.Sprintf(
			`{"section":"%s","edits":[{"question":"request","version":%d,"edit":"save-%d","value":"%d"}]}`,
			section,
			version,
			version,
			5000+version,
		), header)
		if code != 200 {
			b.Fatal(code, body)
		}
		version++
		return time.Since(begun)
	}
}

func median(list []time.Duration) time.Duration { slices.Sort(list); return list[len(list)/2] }

// 2,000 decisions recorded with their letters, and the letters let go, while somebody
// saves without a pause: what a save takes meanwhile beside what it takes alone.
func BenchmarkSaveBesideLetters(b *testing.B) {
	h := programtest.Demo(b)
	var read, open string
	if err := h.DB.Get(&read,
		`SELECT r.key FROM round r JOIN standing s ON s.round_id = r.id WHERE s.state = $1 AND r.key LIKE 'shore-and-peat%' GROUP BY r.key ORDER BY count(*) DESC LIMIT 1`,
		lifecycle.Read); err != nil {
		b.Fatal(err)
	}
	if err := h.DB.Get(&open,
		`SELECT key FROM round WHERE key LIKE 'shore-and-peat%' AND closes_at > $1 ORDER BY closes_at LIMIT 1`,
		h.Clock.Now()); err != nil {
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
	_, base := webtest.Serve(b, h)
	save := saver(b, h, base, open, "budget-section")
	var alone []time.Duration
	for range 200 {
		alone = append(alone, save())
	}
	t, err := h.Decisions.Order(b.Context(), h.DB, r, f, f.FirstStage())
	if err != nil {
		b.Fatal(err)
	}
	sit := decision.Sitting{Stage: f.FirstStage(), Note: "Panel"}
	for _, row := range t.Rows {
		if row.Score.Known() && len(sit.Choices) < 2000 {
			sit.Choices = append(
				sit.Choices,
				decision.Choice{EntryID: row.EntryID, Version: row.Version, Outcome: lifecycle.NotAwarded},
			)
		}
	}
	during := func(do func() error) (took time.Duration, beside []time.Duration) {
		done, begun := make(chan error, 1), time.Now()
		go func() { done <- do() }()
		for {
			select {
			case err := <-done:
				if err != nil {
					b.Fatal(err)
				}
				return time.Since(begun), beside
			default:
				beside = append(beside, save())
			}
		}
	}
	for b.Loop() {
		officer := programtest.MustAccount(b, h.DB, "neda.sparrow@ostrel-trust.example")
		took, beside := during(func() error {
			return h.Do(b.Context(), db.Account(officer), h.Clock.Now(), func(ctx context.Context, tx *db.Tx) error {
				_, err := h.Decisions.Record(ctx, tx, r, f, sit)
				return err
			})
		})
		b.ReportMetric(float64(took.Milliseconds()), "prepared-ms")
		b.ReportMetric(float64(median(beside))/float64(median(alone)), "prepared-save-ratio")
		h.Clock.Set(h.Clock.Now().Add(time.Hour))
		took, beside = during(func() error { return h.Jobs.Drain(b.Context(), h.Clock.Now()) })
		b.ReportMetric(float64(took.Milliseconds()), "sent-ms")
		b.ReportMetric(float64(median(beside))/float64(median(alone)), "sent-save-ratio")
		b.ReportMetric(float64(len(sit.Choices)), "letters")
	}
}
