package desk

import (
	"context"
	"time"

	"ulvant/core/fallout"
	"ulvant/core/forecast"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/promise"
)

// Window of a round for its pace: when it opened and closes.
type Window struct{ Opens, Closes time.Time }

// grain is into how many parts a window is cut for its pace: finer than a picture
// shows.
const grain = 480

// Arrivals are how the applications of a round’s first stage came, in shares of its
// window left; what began and was sent in the same part of it stands together. money
// weighs them by what they ask for, those who have not said yet by what all ask for
// on the average; stream takes that one alone ("": all), of what was sent. Nothing
// after at counts.
func (d *Desk) Arrivals(ctx context.Context, round int64, stage form.Key, w Window, at time.Time, money bool,
	streamFact, stream string) (out []forecast.Entry, err error) {
	var rows []struct {
		Begun  float64
		Sent   *float64
		N      int
		Weight float64
	}
	err = d.DB.SelectContext(ctx, &rows, `
		WITH x AS (
		  SELECT st.entry_id, a.created_at AS begun, s.at AS sent, st.asked, st.state = ANY($9) AS inn
		  FROM standing st JOIN application a ON a.id = st.application_id LEFT JOIN seal s ON s.entry_id = st.entry_id AND s.number = 1
		  WHERE st.round_id = $1 AND st.stage = $2 AND a.created_at <= $5
		    AND ($7 = '' OR EXISTS (SELECT FROM known k WHERE k.entry_id = st.entry_id AND k.facts->>$8 = $7))),
		mean AS (SELECT COALESCE(avg(asked), 0) AS of FROM x)
		SELECT round(GREATEST(0, LEAST(1, EXTRACT(EPOCH FROM $4::timestamptz - begun) / EXTRACT(EPOCH FROM $4::timestamptz - $3::timestamptz))) * $10)::float8 / $10 AS begun,
		       CASE WHEN sent <= $5 AND inn THEN round(GREATEST(0, LEAST(1, EXTRACT(EPOCH FROM $4::timestamptz - sent) / EXTRACT(EPOCH FROM $4::timestamptz - $3::timestamptz))) * $10)::float8 / $10 END AS sent,
		       count(*) AS n, sum(CASE WHEN $6 THEN COALESCE(asked, (SELECT of FROM mean)) ELSE 1 END)::float8 AS weight
		FROM x GROUP BY 1, 2`, round, stage, w.Opens, w.Closes, at, money, stream, streamFact, lifecycle.With(lifecycle.In), grain)
	for _, r := range rows {
		e := forecast.Entry{Begun: r.Begun, Sent: forecast.Never, Weight: r.Weight, N: r.N}
		if r.Sent != nil {
			e.Sent = *r.Sent
		}
		out = append(out, e)
	}
	return out, err
}

// FellOut counts how far those came who gave each answer to a question of the first
// stage: begun, sent, eligible, awarded. An answer that holds several counts by each.
func (d *Desk) FellOut(ctx context.Context, round int64, stage, question form.Key,
	options []form.Option) (out []fallout.Group,
	err error) {
	var rows []struct {
		Value                          string
		Begun, Sent, Eligible, Awarded int
	}
	err = d.DB.SelectContext(ctx, &rows, `
		WITH x AS (
		  SELECT e.id, e.application_id, e.seal_id IS NOT NULL AS sent,
		         EXISTS (SELECT FROM entry y WHERE y.application_id = e.application_id AND y.state = ANY($4)) AS eligible,
		         EXISTS (SELECT FROM entry y WHERE y.application_id = e.application_id AND y.state = ANY($5)) AS awarded
		  FROM entry e JOIN application a ON a.id = e.application_id WHERE a.round_id = $1 AND e.stage = $2)
		SELECT COALESCE(v.value, '') AS value, count(*) AS begun, count(*) FILTER (WHERE sent OR eligible OR awarded) AS sent,
		       count(*) FILTER (WHERE eligible OR awarded) AS eligible, count(*) FILTER (WHERE awarded) AS awarded
		FROM x LEFT JOIN answer n ON n.entry_id = x.id AND n.question = $3 AND n.row_key = '' AND n.column_key = '' AND n.non = ''
		LEFT JOIN LATERAL unnest(string_to_array(n.value, E'\n')) v(value) ON true GROUP BY 1`, round, stage, question,
		lifecycle.With(lifecycle.Admitted), lifecycle.With(lifecycle.Gives|lifecycle.Back))
	if err != nil {
		return nil, err
	}
	by := map[string]fallout.Group{}
	for _, r := range rows {
		by[r.Value] = fallout.Group{N: []int{r.Begun, r.Sent, r.Eligible, r.Awarded}}
	}
	for _, o := range append(options, form.Option{Key: "", Label: "not answered"}) {
		if g, ok := by[string(o.Key)]; ok {
			g.Label = o.Label
			out = append(out, g)
		}
	}
	return out, nil
}

// Promises of a round, with what is open, at a time; those of no case are left out.
func (d *Desk) Promises(ctx context.Context, round int64, f *form.Form, at time.Time) (out []promise.Promise,
	err error) {
	var n struct {
		Checks, Checked, Marks, Marked, MarkedLate, Undecided, Told, ToldLate, Untold int
		Enquiries, Enquired, Time, Timed, Query                                       int
		EnquirySince, TimeSince, QuerySince                                           *time.Time
	}
	if err := d.DB.GetContext(ctx, &n, `
		SELECT (SELECT count(*) FROM standing WHERE round_id = $1 AND state = ANY($2)) AS checks,
		       (SELECT count(*) FROM standing WHERE round_id = $1 AND (state = ANY($3) OR state = ANY($4))) AS checked,
		       (SELECT count(*) FROM standing st JOIN assignment g ON g.entry_id = st.entry_id WHERE st.round_id = $1 AND g.sent_at IS NULL) AS marks,
		       (SELECT count(*) FROM standing st JOIN assignment g ON g.entry_id = st.entry_id WHERE st.round_id = $1 AND g.sent_at IS NOT NULL) AS marked,
		       (SELECT count(*) FROM standing st JOIN assignment g ON g.entry_id = st.entry_id WHERE st.round_id = $1 AND g.sent_at > $7) AS markedlate,
		       (SELECT count(*) FROM standing WHERE round_id = $1 AND latest AND (state = ANY($5) OR state = ANY($2))) AS undecided,
		       (SELECT count(*) FROM entry e JOIN application a ON a.id = e.application_id WHERE a.round_id = $1 AND e.state = ANY($6) AND e.told = '') AS told,
		       (SELECT count(DISTINCT e.id) FROM standing st JOIN entry e ON e.id = st.entry_id JOIN decision d ON d.entry_id = e.id AND d.act_id = e.told_act JOIN post p ON p.id = d.post_id WHERE st.round_id = $1 AND e.state = ANY($6) AND p.sent_at > $8) AS toldlate,
		       (SELECT count(*) FROM entry e JOIN application a ON a.id = e.application_id WHERE a.round_id = $1 AND e.told <> '' AND e.state = ANY($6)) AS untold,
		       (SELECT count(*) FROM enquiry WHERE round_id = $1 AND answered_at IS NULL) AS enquiries,
		       (SELECT min(at) FROM enquiry WHERE round_id = $1 AND answered_at IS NULL) AS enquirysince,
		       (SELECT count(*) FROM enquiry WHERE round_id = $1 AND answered_at IS NOT NULL) AS enquired,
		       (SELECT count(*) FROM moretime m JOIN entry e ON e.id = m.entry_id JOIN application a ON a.id = e.application_id WHERE a.round_id = $1 AND m.decided_at IS NULL) AS time,
		       (SELECT min(m.asked_at) FROM moretime m JOIN entry e ON e.id = m.entry_id JOIN application a ON a.id = e.application_id WHERE a.round_id = $1 AND m.decided_at IS NULL) AS timesince,
		       (SELECT count(*) FROM moretime m JOIN entry e ON e.id = m.entry_id JOIN application a ON a.id = e.application_id WHERE a.round_id = $1 AND m.decided_at IS NOT NULL) AS timed,
		       (SELECT count(*) FROM query q JOIN standing st ON st.entry_id = q.entry_id WHERE st.round_id = $1 AND q.ended = 'answered' AND q.seen_at IS NULL) AS query,
		       (SELECT min(q.ended_at) FROM query q JOIN standing st ON st.entry_id = q.entry_id WHERE st.round_id = $1 AND q.ended = 'answered' AND q.seen_at IS NULL) AS querysince`,
		round, lifecycle.With(lifecycle.ToSettle), lifecycle.With(lifecycle.Admitted),
		lifecycle.With(lifecycle.TurnedDown),
		lifecycle.With(lifecycle.UnderWay), lifecycle.With(lifecycle.Decided), f.At(form.ReadingEnd),
		f.At(form.AnswerOn)); err != nil {
		return nil, err
	}
	add := func(p promise.Promise) {
		if p.Open+p.Done > 0 {
			out = append(out, p)
		}
	}
	within := func(since *time.Time, days int) time.Time {
		if since == nil {
			return at
		}
		return f.WorkingDaysAfter(*since, days)
	}
	add(promise.Promise{Kind: promise.Enquiry, Due: within(n.EnquirySince, 2), Open: n.Enquiries, Done: n.Enquired})
	add(promise.Promise{Kind: promise.Time, Due: within(n.TimeSince, 1), Open: n.Time, Done: n.Timed})
	add(promise.Promise{Kind: promise.Query, Due: within(n.QuerySince, 2), Open: n.Query})
	add(promise.Promise{Kind: promise.Checks, Due: f.At(form.ChecksBy), Open: n.Checks, Done: n.Checked})
	var turns []struct {
		Body       string
		Open, Done int
	}
	if err := d.DB.SelectContext(ctx, &turns, `
		SELECT t.body, count(*) FILTER (WHERE t.state IN ('with', 'waits') AND e.state = ANY($2)) AS open, count(*) FILTER (WHERE t.state NOT IN ('with', 'waits')) AS done
		FROM turn t JOIN entry e ON e.id = t.entry_id WHERE t.round_id = $1 GROUP BY t.body ORDER BY t.body`, round, lifecycle.With(lifecycle.ToSettle)); err != nil {
		return nil, err
	}
	for _, t := range turns {
		for _, b := range f.Design.Bodies {
			if string(b.Key) == t.Body && b.By != "" {
				add(promise.Promise{Kind: promise.Turns, Who: b.Label, Due: f.At(b.By), Open: t.Open, Done: t.Done})
			}
		}
	}
	add(promise.Promise{Kind: promise.Reading, Due: f.At(form.ReadingEnd), Open: n.Marks, Done: n.Marked,
		Late: n.MarkedLate})
	add(promise.Promise{Kind: promise.Answer, Due: f.At(form.AnswerOn), Open: n.Undecided, Done: n.Told, Late: n.ToldLate})
	add(promise.Promise{Kind: promise.Letters, Due: f.At(form.AnswerOn), Open: n.Untold, Done: n.Told, Late: n.ToldLate})
	return out, nil
}
