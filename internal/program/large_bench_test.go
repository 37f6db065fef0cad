package program_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

const many = 2000

// crowded is a round in which as many were sent as a large one takes: copies of
// one case, all its lead's.
func crowded(b *testing.B, change func(*form.Design)) *programtest.Panel {
	b.Helper()
	p := programtest.SentToRound(b, change, map[string]string{"Ann": "8,000"})
	p.StateOf("Ann")
	ann := p.Of["Ann"]
	for _, sql := range []string{
		`INSERT INTO application (ref, round_id, title, created_at) SELECT 'M-' || i, round_id, 'Work ' || i, created_at FROM application, generate_series(1, 1999) i WHERE id = $1`,
		`INSERT INTO relation (application_id, account_id, kind) SELECT m.id, l.account_id, 'lead' FROM application m, relation l WHERE m.ref LIKE 'M-%' AND l.application_id = $1`,
		`INSERT INTO entry (application_id, stage, design_id, state, state_at, seal_id) SELECT m.id, e.stage, e.design_id, e.state, e.state_at, e.seal_id FROM application m, entry e WHERE m.ref LIKE 'M-%' AND e.application_id = $1`,
		`INSERT INTO standing SELECT (jsonb_populate_record(s, jsonb_build_object('entry_id', e.id, 'application_id', m.id))).* FROM application m JOIN entry e ON e.application_id = m.id, standing s WHERE m.ref LIKE 'M-%' AND s.application_id = $1`,
	} {
		if _, err := p.DB.Exec(sql, ann.ID); err != nil {
			b.Fatal(err)
		}
	}
	return p
}

// Recording 2,000 decisions in one act, with their letters queued.
func BenchmarkRecord2000Decisions(b *testing.B) {
	for b.Loop() {
		b.StopTimer()
		p := crowded(b, programtest.Unread)
		var rows []struct {
			ID      int64
			Version int
		}
		if err := p.DB.Select(&rows,
			`SELECT e.id, e.version FROM entry e JOIN application a ON a.id = e.application_id WHERE a.round_id = $1`,
			p.Round.ID); err != nil || len(rows) != many {
			b.Fatal(len(rows), err)
		}
		choices := make([]decision.Choice, many)
		for i, r := range rows {
			choices[i] = decision.Choice{EntryID: r.ID, Version: r.Version, Outcome: lifecycle.NotAwarded}
		}
		least := bare(p, b)
		b.StartTimer()
		begun := time.Now()
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Decisions.Record(ctx, tx, p.Round, p.Form,
				decision.Sitting{Stage: "writing", Choices: choices, Note: "Panel"})
			return err
		})
		b.ReportMetric(float64(time.Since(begun))/float64(least), "ratio")
	}
}

// 2,000 letters, half of them in the place of another by what was sent: prepared with
// their decisions, then put out to the mail server one by one.
func BenchmarkLetters2000(b *testing.B) {
	for b.Loop() {
		b.StopTimer()
		p := crowded(b, func(d *form.Design) {
			programtest.Unread(d)
			yes := true
			d.Letters = append(d.Letters, form.Letter{Key: "other", Subject: "{{ref}}: our answer",
				Body: "Dear {{name}},\n\n{{reasons}}\n\n{{office}}",
				Of:   "not-awarded", When: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "land-leave"},
					Rel:   condition.Is,
					Value: &condition.Value{Yes: &yes}}}})
		})
		var rows []struct {
			ID      int64
			Version int
		}
		if err := p.DB.Select(&rows,
			`SELECT e.id, e.version FROM entry e JOIN application a ON a.id = e.application_id WHERE a.round_id = $1`,
			p.Round.ID); err != nil {
			b.Fatal(err)
		}
		choices := make([]decision.Choice, len(rows))
		for i, r := range rows {
			choices[i] = decision.Choice{EntryID: r.ID, Version: r.Version, Outcome: lifecycle.NotAwarded}
		}
		b.StartTimer()
		begun := time.Now()
		if _, err := p.Records("", choices); err != nil {
			b.Fatal(err)
		}
		b.ReportMetric(time.Since(begun).Seconds(), "prepared-s")
		begun = time.Now()
		p.After(time.Hour)
		b.ReportMetric(time.Since(begun).Seconds(), "sent-s")
		if n := p.Mails("our answer"); n < 1000 {
			b.Fatal(n, "letters")
		}
	}
}

// Handing 2,000 cases out to 300 readers, two each.
func BenchmarkHandOut2000(b *testing.B) {
	for b.Loop() {
		b.StopTimer()
		p := crowded(b, programtest.Short)
		for i := range 300 {
			name := fmt.Sprintf("Reader%d Vane", i)
			a := p.Person(fmt.Sprintf("reader%d@readers.example", i), name)
			if _, err := p.DB.Exec(`INSERT INTO reader (round_id, account_id, invited_at) VALUES ($1, $2, $3)`, p.Round.ID,
				a.ID, p.Clock.Now()); err != nil {
				b.Fatal(err)
			}
		}
		p.Clock.Set(p.Form.HandsOutFrom())
		least := bare(p, b)
		b.StartTimer()
		begun := time.Now()
		if out, err := p.HandsOut(); err != nil || out.Cases != many {
			b.Fatal(out, err)
		}
		b.ReportMetric(float64(time.Since(begun))/float64(least), "ratio")
	}
}

// bare is the least that changing the state of so many asks of PostgreSQL.
func bare(p *programtest.Panel, b *testing.B) time.Duration {
	b.Helper()
	tx, err := p.DB.Begin()
	if err != nil {
		b.Fatal(err)
	}
	defer tx.Rollback()
	begun := time.Now()
	for _, sql := range []string{
		`UPDATE entry SET state = 'read', state_at = now(), version = version + 1 FROM application a WHERE a.id = application_id AND a.round_id = $1`,
		`UPDATE standing SET state = 'read', changed_at = now() WHERE round_id = $1`,
		`INSERT INTO trail (at, by_kind, by_id, verb, application_id, round_id, figures) SELECT now(), 'job', 0, 'awarded', id, round_id, '{}' FROM application WHERE round_id = $1`} {
		if _, err := tx.Exec(sql, p.Round.ID); err != nil {
			b.Fatal(err)
		}
	}
	return time.Since(begun)
}
