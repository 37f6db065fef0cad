package award

import (
	"context"
	"encoding/json"
	"time"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/mark"
	"ulvant/core/phrase"
	"ulvant/core/placing"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/core/wordlist"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/work"
	"ulvant/internal/round"
)

const (
	chunk      = 250 // cases read at once
	mostNearly = 60  // of one award that are kept by name
)

// AtOnce is how many cases may be worked out while somebody waits.
const AtOnce = 300

// workingOut is the job that works out who stands how to which award.
type workingOut struct{ round.Long }

// Kind names the job.
func (workingOut) Kind() string { return "long.work-out-awards" }

// Register takes up the jobs.
func (s *Store) Register() {
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, j solving) error {
		return s.Later.Do(ctx, at, j.Long, func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form,
			_ func(int)) (string, error) {
			return "The awards are placed anew.", s.SolveAll(ctx, tx, r, f)
		})
	})
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, j workingOut) error {
		return s.Later.Do(ctx, at, j.Long, func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form,
			reached func(int)) (string, error) {
			n, err := s.WorkOut(ctx, tx, r, f, reached)
			return phrase.Count(int64(n), "person is", "people are") + " read against every award, and the awards are placed.",
				err
		})
	})
}

// solving is the job that works the placings of a large round out anew.
type solving struct{ round.Long }

// Kind names the job.
func (solving) Kind() string { return "long.place-awards" }

// Settle works the placings out that hang on what has just changed: at once, or by a
// job where there are many people.
func (s *Store) Settle(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form) error {
	c, err := s.Candidacy(ctx, tx, r.ID)
	if err != nil {
		return err
	}
	if c.People <= AtOnce {
		return s.SolveAll(ctx, tx, r, f)
	}
	l, err := s.Later.Begin(ctx, tx, work.Placing, r, c.People)
	if err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, solving{l}, tx.At)
}

// WorkOutLater works it out by a job.
func (s *Store) WorkOutLater(ctx context.Context, tx *db.Tx, r round.Round, cases int) error {
	l, err := s.Later.Begin(ctx, tx, work.Placing, r, cases)
	if err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, workingOut{l}, tx.At)
}

// person is a candidate under way.
type person struct {
	entry, seal int64
	need, merit int64 // as they are worked out, in hundredths
	cap         int64
}

// WorkOut reads everybody in the order of a round against every award, in place of what
// was worked out before, and places the awards anew. What people ruled and held stays.
func (s *Store) WorkOut(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, reached func(int)) (people int,
	err error) {
	if len(f.Design.Awards) == 0 {
		return 0, refusal.Unfit("this round gives no awards of their own").But("design some first")
	}
	stage := lastStage(f)
	t, err := s.Decisions.Order(ctx, tx, r, f, stage)
	if err != nil {
		return 0, err
	}
	if len(t.Rows) == 0 {
		return 0, refusal.Unfit("nobody is in the order yet").But("wait until cases are read, or eligible where nobody reads")
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM candidate WHERE round_id = $1`, r.ID); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM award_count WHERE round_id = $1`, r.ID); err != nil {
		return 0, err
	}
	g := newGathering(f)
	for from := 0; from < len(t.Rows); from += chunk {
		rows := t.Rows[from:min(from+chunk, len(t.Rows))]
		if err := s.gather(ctx, tx, r, g, rows); err != nil {
			return 0, err
		}
		if reached != nil {
			reached(from + len(rows))
		}
	}
	if err := s.level(ctx, tx, g); err != nil {
		return 0, err
	}
	if err := s.count(ctx, tx, r, g); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO candidacy (round_id, design_id, at, people) VALUES ($1, $2, $3, $4)
		ON CONFLICT (round_id) DO UPDATE SET design_id = $2, at = $3, people = $4, version = candidacy.version + 1`, r.ID, *r.DesignID, tx.At,
		len(g.people)); err != nil {
		return 0, err
	}
	if err := s.usual(ctx, tx, r); err != nil {
		return 0, err
	}
	return len(g.people), s.SolveAll(ctx, tx, r, f)
}

// lastStage is the one in which awards are given.
func lastStage(f *form.Form) form.Key {
	stages := f.Applying()
	return stages[len(stages)-1].Key
}

// gathering is what is worked out so far.
type gathering struct {
	f       *form.Form
	rules   form.Placing
	people  []person
	counts  []Count
	names   say.Names
	byMarks bool
	most    float64 // mark that can be had
	own     []ownMeasure
}

// ownMeasure is what a pair brings to an award that has a measure of its own for need
// or for merit, in hundredths; -1 where it has none.
type ownMeasure struct {
	entry       int64
	award       form.Key
	need, merit int64
}

func newGathering(f *form.Form) *gathering {
	g := &gathering{f: f, names: say.Names{Form: f}, counts: make([]Count, len(f.Design.Awards))}
	if f.Design.Placing != nil {
		g.rules = *f.Design.Placing
	}
	g.byMarks = g.rules.Merit == ""
	sum, all := 0, 0
	for _, c := range f.Design.Criteria {
		sum += c.Weight * (len(c.Steps) - 1)
		all += c.Weight
	}
	g.most = float64(sum) / float64(max(all, 1))
	for i, a := range f.Design.Awards {
		g.counts[i].Award, g.counts[i].Nearly = a.Key, make([]int, len(f.Conditions(i))+1)
	}
	return g
}

// fitRows are rows of the table fit, column by column.
type fitRows struct {
	entries               []int64
	awards, stands, saids []string
	misses, wishes        []int32
	firsts                []bool
}

// gather reads some cases against every award.
func (s *Store) gather(ctx context.Context, tx *db.Tx, r round.Round, g *gathering, rows []decision.Row) error {
	at, entries := map[int64]decision.Row{}, make([]int64, len(rows))
	for i, row := range rows {
		at[row.EntryID], entries[i] = row, row.EntryID
	}
	var seals []struct {
		Entry    int64
		Seal     int64
		Document []byte
	}
	if err := tx.SelectContext(ctx, &seals, `
		SELECT e.id AS entry, d.id AS seal, d.document FROM entry e JOIN seal d ON d.id = e.seal_id WHERE e.id = ANY($1) ORDER BY e.id`, entries); err != nil {
		return err
	}
	first := len(g.people)
	var fits fitRows
	for _, x := range seals {
		var doc seal.Document
		if err := json.Unmarshal(x.Document, &doc); err != nil {
			return err
		}
		row := at[x.Entry]
		p, err := g.read(x.Entry, x.Seal, row.Score, doc.Filled(row.Lead), &fits)
		if err != nil {
			return err
		}
		g.people = append(g.people, p)
	}
	var ids, sealIDs, caps []int64
	for _, p := range g.people[first:] {
		ids, sealIDs, caps = append(ids, p.entry), append(sealIDs, p.seal), append(caps, p.cap)
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO candidate (entry_id, round_id, seal_id, need, merit, cap)
		SELECT n.entry, $1, n.seal, 0, 0, n.cap FROM unnest($2::bigint[], $3::bigint[], $4::bigint[]) AS n(entry, seal, cap)`,
		r.ID, ids, sealIDs, caps); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO fit (entry_id, round_id, award, stand, misses, wish, first, said)
		SELECT n.entry, @round, n.award, n.stand, NULLIF(n.misses, -1), n.wish, n.first, n.said::jsonb
		FROM unnest(@entries::bigint[], @awards::text[], @stands::text[], @misses::int[], @wishes::int[], @firsts::boolean[], @saids::text[])
		  AS n(entry, award, stand, misses, wish, first, said)`,
		db.Named{"round": r.ID, "entries": fits.entries, "awards": pq.StringArray(fits.awards),
			"stands": pq.StringArray(fits.stands),
			"misses": fits.misses, "wishes": fits.wishes, "firsts": pq.BoolArray(fits.firsts),
			"saids": pq.StringArray(fits.saids)})
	return err
}

// read one person against every award that they applied for.
func (g *gathering) read(entry, sealID int64, score mark.Score, filled *form.Filled, fits *fitRows) (person, error) {
	met, path := g.f.Meetings(filled)
	p := person{entry: entry, seal: sealID}
	p.need = hundredths(g.f, path, g.rules.Need)
	if g.byMarks {
		p.merit = int64(100 * score.Float())
	} else {
		p.merit = hundredths(g.f, path, g.rules.Merit)
	}
	switch g.rules.Cap {
	case form.UpToAsked:
		p.cap = max(1, hundredths(g.f, path, g.f.Design.Request)/100)
	case form.UpToNeed:
		p.cap = max(1, p.need/100)
	}
	wishes := g.f.Wishes(path)
	applied := g.f.Applied(path)
	for i, a := range g.f.Design.Awards {
		m := met[i]
		g.counts[i].Asked = g.counts[i].Asked || g.f.Asked(i, path)
		if m.Stand == form.FarFrom || !applied(a.Key) {
			continue
		}
		misses, c := -1, &g.counts[i]
		switch m.Stand {
		case form.Fits:
			c.Fits++
		case form.MustSay:
			c.MustSay++
		case form.Nearly:
			misses = m.Misses()
			c.Nearly[misses]++
			if total(c.Nearly) > mostNearly {
				continue
			}
		}
		said, err := json.Marshal(g.said(i, m, filled, path))
		if err != nil {
			return p, err
		}
		if a.NeedBy != "" || a.MeritBy != "" {
			own := ownMeasure{entry, a.Key, -1, -1}
			if a.NeedBy != "" {
				own.need = hundredths(g.f, path, a.NeedBy)
			}
			if a.MeritBy != "" {
				own.merit = hundredths(g.f, path, a.MeritBy)
			}
			g.own = append(g.own, own)
		}
		fits.entries, fits.awards = append(fits.entries, entry), append(fits.awards, string(a.Key))
		fits.stands, fits.saids = append(fits.stands, string(m.Stand)), append(fits.saids, string(said))
		fits.misses, fits.wishes = append(fits.misses, int32(misses)), append(fits.wishes, int32(wishes[a.Key]))
		fits.firsts = append(fits.firsts, m.First)
	}
	return p, nil
}

func total(list []int) (n int) {
	for _, x := range list {
		n += x
	}
	return n
}

// said is what was answered to each condition of an award.
func (g *gathering) said(award int, m form.Meeting, filled *form.Filled, path *form.Path) []Said {
	out := make([]Said, len(m.Parts))
	conds := g.f.Conditions(award)
	for i, v := range m.Parts {
		out[i].Look = v.ForPerson()
		if i < len(conds) {
			out[i].Words = g.names.Answered(conds[i], filled, path)
			continue
		}
		for _, p := range wordlist.Excerpt(g.f.Written(path, g.f.Design.Awards[award].WordsIn), m.Found) {
			out[i].Pieces = append(out[i].Pieces, Piece{p.Text, p.Is})
		}
	}
	return out
}

// hundredths of a figure or an answer; 0 where there is none.
func hundredths(f *form.Form, path *form.Path, k form.Key) int64 {
	n, ok := f.Number(path, k)
	if !ok {
		return 0
	}
	return 100 * n.Num / max(n.Den, 1)
}

// level reckons need and merit of the greatest there is; marks, of the greatest that
// can be had.
func (s *Store) level(ctx context.Context, tx *db.Tx, g *gathering) error {
	var need, merit int64
	for _, p := range g.people {
		need, merit = max(need, p.need), max(merit, p.merit)
	}
	if g.byMarks {
		merit = int64(100 * g.most)
	}
	entries, needs, merits := make([]int64, len(g.people)), make([]int32, len(g.people)), make([]int32, len(g.people))
	for i, p := range g.people {
		entries[i], needs[i], merits[i] = p.entry, int32(placing.OfGreatest(p.need, need)),
			int32(placing.OfGreatest(p.merit, merit))
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE candidate c SET need = n.need, merit = n.merit FROM unnest($1::bigint[], $2::int[], $3::int[]) AS n(entry, need, merit)
		WHERE c.entry_id = n.entry`, entries, needs, merits)
	if err != nil || g.own == nil {
		return err
	}
	return s.levelOwn(ctx, tx, g.own)
}

// levelOwn does the same for awards with measures of their own, each by its greatest.
func (s *Store) levelOwn(ctx context.Context, tx *db.Tx, own []ownMeasure) error {
	need, merit := map[form.Key]int64{}, map[form.Key]int64{}
	for _, o := range own {
		need[o.award], merit[o.award] = max(need[o.award], o.need), max(merit[o.award], o.merit)
	}
	entries, awards := make([]int64, len(own)), make([]string, len(own))
	needs, merits := make([]int32, len(own)), make([]int32, len(own))
	of := func(value, greatest int64) int32 {
		if value < 0 {
			return -1
		}
		return int32(placing.OfGreatest(value, greatest))
	}
	for i, o := range own {
		entries[i], awards[i], needs[i], merits[i] = o.entry, string(o.award), of(o.need, need[o.award]), of(o.merit,
			merit[o.award])
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE fit x SET need = NULLIF(n.need, -1), merit = NULLIF(n.merit, -1)
		FROM unnest($1::bigint[], $2::text[], $3::int[], $4::int[]) AS n(entry, award, need, merit)
		WHERE x.entry_id = n.entry AND x.award = n.award`, entries, pq.StringArray(awards), needs, merits)
	return err
}

func (s *Store) count(ctx context.Context, tx *db.Tx, r round.Round, g *gathering) error {
	var awards, nearly []string
	var fits, must []int32
	var asked []bool
	for _, c := range g.counts {
		raw, err := json.Marshal(c.Nearly)
		if err != nil {
			return err
		}
		awards, nearly = append(awards, string(c.Award)), append(nearly, string(raw))
		fits, must = append(fits, int32(c.Fits)), append(must, int32(c.MustSay))
		asked = append(asked, c.Asked)
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO award_count (round_id, award, fits, must_say, nearly, asked)
		SELECT $1, n.award, n.fits, n.must, n.nearly::jsonb, n.asked
		FROM unnest($2::text[], $3::int[], $4::int[], $5::text[], $6::boolean[]) AS n(award, fits, must, nearly, asked)`,
		r.ID, pq.StringArray(awards), fits, must, pq.StringArray(nearly), pq.BoolArray(asked))
	return err
}
