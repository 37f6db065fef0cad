package connection_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"ulvant/core/connected"
	"ulvant/core/likeness"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// BenchmarkOneMoreCase takes one sent case among 100,000 parties and 20,000 texts,
// beside the bare look-up of as many keys and marks by index.
func BenchmarkOneMoreCase(b *testing.B) {
	p := programtest.SentToRound(b, asking, map[string]string{"Ann": "5,000", "Bo": "6,000"})
	r := rand.New(rand.NewPCG(7, 7))
	given := strings.Fields("Aine Ailsa Alasdair Anders Bo Brid Caitlin Callum Ciaran Colm Dacian Deirdre Donal Eamon Eilidh Ewan Fergus Fiona Hamish " +
		"Iona Isla Jonas Kari Liam Lorcan Maura Moya Neda Niall Nora Oisin Olaf Owain Roisin Ronan Runa Saoirse Senan Shona Sigrid Tadhg Una Vigdis")
	syllable := strings.Fields("bar cal dor fen gal har kel lom mor nes pet ros sul tar ver wyn ald bren cor dun")
	word := func() string { return syllable[r.IntN(20)] + syllable[r.IntN(20)] }
	const people, texts, step = 100_000, 20_000, 2_000
	for from := 0; from < people; from += step {
		var names, marks, keys []string
		var accounts, of []int64
		var finds []bool
		for i := from; i < from+step; i++ {
			name := given[r.IntN(len(given))] + " " + strings.ToUpper(word()[:1]) + word()
			x := connected.Take(connected.Party{Name: name, Mails: []string{fmt.Sprintf("m%d@h%d.example", i, i%9000)},
				Phones: []string{fmt.Sprintf("+35387%07d", i)}})
			names, marks, accounts = append(names, name), append(marks, name), append(accounts, int64(1_000_000+i))
			for _, k := range x.Keys {
				keys, of, finds = append(keys, k.Key), append(of, int64(1_000_000+i)), append(finds, k.Finds)
			}
		}
		p.Act(0, func(ctx context.Context, tx *db.Tx) error {
			if _, err := tx.ExecContext(ctx,
				`INSERT INTO party (account_id, part, place, name, mark) SELECT a, 'staff', '', n, m FROM unnest($1::bigint[], $2::text[], $3::text[]) x(a, n, m)`,
				accounts, names, marks); err != nil {
				return err
			}
			_, err := tx.ExecContext(ctx,
				`INSERT INTO party_key (key, party_id, finds) SELECT k, y.id, f FROM unnest($1::text[], $2::bigint[], $3::boolean[]) x(k, a, f) JOIN party y ON y.account_id = x.a AND y.application_id IS NULL`,
				keys, of, finds)
			return err
		})
	}
	long := func() string {
		var s strings.Builder
		for range 160 {
			s.WriteString(word() + " ")
		}
		return s.String()
	}
	for from := 0; from < texts; from += step {
		var questions []string
		var all []int64
		var of []string
		for i := from; i < from+step; i++ {
			q := fmt.Sprint("text-", i)
			questions = append(questions, q)
			for _, m := range likeness.Marks(long()) {
				all, of = append(all, m), append(of, q)
			}
		}
		p.Act(0, func(ctx context.Context, tx *db.Tx) error {
			if _, err := tx.ExecContext(ctx,
				`INSERT INTO prose (application_id, entry_id, lead_id, question, words) SELECT $1, $2, $3, q, 160 FROM unnest($4::text[]) q`,
				p.Of["Bo"].ID, p.Of["Bo"].EntryID, p.Of["Bo"].LeadID, questions); err != nil {
				return err
			}
			_, err := tx.ExecContext(ctx,
				`INSERT INTO prose_mark (mark, prose_id) SELECT m, y.id FROM unnest($1::bigint[], $2::text[]) x(m, q) JOIN prose y ON y.question = x.q`, all, of)
			return err
		})
	}
	p.Crowd(`ANALYZE party; ANALYZE party_key; ANALYZE prose; ANALYZE prose_mark`)
	c := sends(p, "d.fenbar@h7.example", "Donal Fenbar", programtest.Edit("phone", "+353 87 000 1234"),
		programtest.Edit("plan", long()))
	b.Run("its people and its texts", func(b *testing.B) {
		for b.Loop() {
			p.Act(0, func(ctx context.Context, tx *db.Tx) error { return p.Connected.Take(ctx, tx, c) })
		}
	})
	b.Run("bare: keys and marks by index", func(b *testing.B) {
		for b.Loop() {
			p.Act(0, func(ctx context.Context, tx *db.Tx) error {
				var n int
				if err := tx.GetContext(ctx, &n,
					`SELECT count(*) FROM party_key WHERE key IN (SELECT key FROM party_key WHERE party_id IN (SELECT id FROM party WHERE application_id = $1))`, c.ID); err != nil {
					return err
				}
				return tx.GetContext(ctx, &n,
					`SELECT count(*) FROM prose_mark WHERE mark IN (SELECT mark FROM prose_mark WHERE prose_id IN (SELECT id FROM prose WHERE application_id = $1))`, c.ID)
			})
		}
	})
}
