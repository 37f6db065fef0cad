package web_test

import (
	"net/url"
	"strings"
	"testing"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Lines across some 2,000 cases: the page of a round's costs, as a ratio to the
// bare SQL that fetches its cells.
func BenchmarkLinesAcross2000Cases(b *testing.B) {
	h := programtest.Demo(b)
	var round string
	var id int64
	if err := h.DB.QueryRow(`SELECT r.key, r.id FROM round r JOIN standing s ON s.round_id = r.id WHERE s.state = $1 GROUP BY r.key, r.id ORDER BY count(*) DESC LIMIT 1`,
		lifecycle.Read).Scan(&round, &id); err != nil {
		b.Fatal(err)
	}
	h.Crowd(
		strings.Replace(
			multiply,
			"DROP TABLE",
			`INSERT INTO answer SELECT (jsonb_populate_record(x, jsonb_build_object('entry_id', n.id))).* FROM entered n JOIN answer x ON x.entry_id = n.was AND x.question = 'budget';
DROP TABLE`,
			1,
		),
		125,
		round,
		true,
	)
	var bare time.Duration
	b.Run("bare", func(b *testing.B) {
		for b.Loop() {
			rows, err := h.DB.Query(
				`SELECT n.entry_id, n.row_key, n.column_key, n.value FROM application a JOIN entry e ON e.application_id = a.id
				JOIN answer n ON n.entry_id = e.id AND n.question = 'budget' WHERE a.round_id = $1 AND e.seal_id IS NOT NULL ORDER BY n.entry_id, n.row_key`,
				id,
			)
			if err != nil {
				b.Fatal(err)
			}
			var entry int64
			var row, column, value string
			n := 0
			for rows.Next() {
				if err := rows.Scan(&entry, &row, &column, &value); err != nil {
					b.Fatal(err)
				}
				n++
			}
			b.ReportMetric(float64(n), "cells")
		}
		bare = b.Elapsed() / time.Duration(b.N)
	})
	_, base := webtest.Serve(b, h)
	neda := webtest.Visit(b, base)
	if code, _ := neda.Submit("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"},
		"password": {"shore and peat"}}); code != 303 {
		b.Fatal(code)
	}
	b.Run("page", func(b *testing.B) {
		for b.Loop() {
			if code, _ := neda.See("/office/rounds/" + round + "/costs"); code != 200 {
				b.Fatal(code)
			}
		}
		b.ReportMetric(float64(b.Elapsed()/time.Duration(b.N))/float64(bare), "×bare")
	})
}
