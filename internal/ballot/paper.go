package ballot

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/core/slot"
	"ulvant/core/vote"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/work"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Project that can be voted for.
type Project struct {
	ID       int64
	Entry    int64 `db:"entry_id"`
	Ref      string
	Lead     string // as the office knows them
	State    lifecycle.State
	Number   *int // on the ballot paper; nil: not on it
	Title    string
	Cost     int64
	RawShown []byte      `db:"shown"`
	RawFiles []byte      `db:"pictures"`
	Shown    []seal.Said `db:"-"` // what the public sees
	Pictures []int64     `db:"-"` // files
	Ruling   string      // "": nobody has looked; shown | held
	Why      string
	By       *string
	At       *time.Time
	Off      string // why it was taken off the paper
	Same     bool   // it is read out of what stands sent now
}

const projectColumns = `
	SELECT p.id, p.entry_id, a.ref, l.name AS lead, e.state, p.number, p.title, p.cost, p.shown, p.pictures, p.ruling, p.why, b.name AS by, p.at, p.off,
	       e.seal_id = p.seal_id AS same
	FROM vote_project p JOIN entry e ON e.id = p.entry_id JOIN application a ON a.id = e.application_id
	JOIN relation r ON r.application_id = a.id AND r.kind = 'lead' JOIN account l ON l.id = r.account_id
	LEFT JOIN account b ON b.id = p.by_id `

func unfold(list []Project, err error) ([]Project, error) {
	for i := range list {
		if err == nil {
			err = json.Unmarshal(list[i].RawShown, &list[i].Shown)
		}
		if err == nil {
			err = json.Unmarshal(list[i].RawFiles, &list[i].Pictures)
		}
		if p := &list[i]; p.Number != nil && p.Off == "" && p.State.Is(lifecycle.Gone) {
			p.Off = "Its applicants have taken it back."
		}
	}
	return list, err
}

// Projects are all that could stand on the paper, in the order of their references.
func (s *Store) Projects(ctx context.Context, q db.Querier, round int64) (out []Project, err error) {
	err = q.SelectContext(ctx, &out, projectColumns+`WHERE p.round_id = $1 ORDER BY a.ref`, round)
	return unfold(out, err)
}

// OnPaper are those that stand on the ballot paper, by their numbers; those taken off
// since are among them.
func (s *Store) OnPaper(ctx context.Context, q db.Querier, round int64) (out []Project, err error) {
	err = q.SelectContext(
		ctx,
		&out,
		projectColumns+`WHERE p.round_id = $1 AND p.number IS NOT NULL ORDER BY p.number`,
		round,
	)
	return unfold(out, err)
}

// among are the states whose cases may stand on the paper.
func among(f *form.Form) []lifecycle.State {
	if f.Design.Vote.Among == form.AmongChosen {
		return lifecycle.With(lifecycle.Gives | lifecycle.GoesOn | lifecycle.Waits)
	}
	return slices.DeleteFunc(
		lifecycle.With(lifecycle.Admitted),
		func(s lifecycle.State) bool { return s.Is(lifecycle.Declined) },
	)
}

const (
	// AtOnce is how many cases are read while somebody waits.
	AtOnce = 300
	// atATime is how many are read at once.
	atATime = 200
)

// Candidates is how many cases stand in the states that may be voted on, and how many of
// them are not read out yet, or were sent anew since.
func (s *Store) Candidates(ctx context.Context, q db.Querier, r round.Round, f *form.Form) (all, fresh int, err error) {
	var n struct{ All, Fresh int }
	err = q.GetContext(ctx, &n, `
		SELECT count(*) AS all, count(*) FILTER (WHERE v.at IS NULL OR e.seal_id <> COALESCE(p.seal_id, e.seal_id) OR p.id IS NULL AND e.state_at > v.at) AS fresh
		FROM standing s JOIN entry e ON e.id = s.entry_id LEFT JOIN vote_project p ON p.entry_id = e.id
		LEFT JOIN (SELECT round_id, gathered_at AS at FROM vote) v ON v.round_id = s.round_id
		WHERE s.round_id = $1 AND s.stage = $2 AND s.state = ANY($3)`, r.ID, f.VotedAfter(), among(f))
	return n.All, n.Fresh, err
}

// gathering is the job that reads the projects of a large round out.
type gathering struct{ round.Long }

// Kind names the job.
func (gathering) Kind() string { return "long.gather-projects" }

// Register takes up the jobs.
func (s *Store) Register() {
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, j gathering) error {
		return s.Later.Do(
			ctx,
			at,
			j.Long,
			func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, reached func(int)) (string, error) {
				n, err := s.Gather(ctx, tx, r, f, reached)
				return saysGathered(n), err
			},
		)
	})
	jobs.Handle(s.Jobs, jobs.Long, func(ctx context.Context, at time.Time, j counting) error {
		return s.Later.Do(
			ctx,
			at,
			j.Long,
			func(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, reached func(int)) (string, error) {
				n, err := s.Count(ctx, tx, r, f)
				return saysCounted(n), err
			},
		)
	})
	s.Jobs.Sweeping("forget who voted", s.forget)
	s.Jobs.Sweeping("stir the ballots", s.stirAll)
}

func saysGathered(n int) string {
	return phrase.Count(int64(n), "project stands", "projects stand") + " to be looked through."
}

// GatherLater reads them out by a job.
func (s *Store) GatherLater(ctx context.Context, tx *db.Tx, r round.Round, cases int) error {
	l, err := s.Later.Begin(ctx, tx, work.Ballots, r, cases)
	if err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, gathering{l}, tx.At)
}

// ErrLaid: the ballot paper is fixed.
var ErrLaid = refusal.New("the ballot paper is laid out").But("take it back first; single projects can be taken off it")

// Gather reads out of what was sent what the public would see of each project whose
// applicants agreed to it, and says how many there are. What somebody ruled stays where
// nothing of it has changed.
func (s *Store) Gather(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, reached func(int)) (int, error) {
	v, err := s.lock(ctx, tx, r, f)
	if err != nil {
		return 0, err
	}
	if v.Laid != nil {
		return 0, ErrLaid
	}
	var entries []int64
	if err := tx.SelectContext(ctx, &entries, `SELECT entry_id FROM standing WHERE round_id = $1 AND stage = $2 AND state = ANY($3) ORDER BY entry_id`, r.ID,
		f.VotedAfter(), among(f)); err != nil {
		return 0, err
	}
	n := 0
	for from := 0; from < len(entries); from += atATime {
		some := entries[from:min(from+atATime, len(entries))]
		agreed, err := s.readOut(ctx, tx, r, f, some)
		if err != nil {
			return 0, err
		}
		n += agreed
		if reached != nil {
			reached(from + len(some))
		}
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM vote_project WHERE round_id = $1 AND NOT entry_id = ANY($2)`, r.ID, entries); err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx, `UPDATE vote SET gathered_at = $2 WHERE round_id = $1`, r.ID, tx.At)
	return n, err
}

func (s *Store) readOut(
	ctx context.Context,
	tx *db.Tx,
	r round.Round,
	f *form.Form,
	entries []int64,
) (agreed int, err error) {
	var list []struct {
		Entry       int64
		Seal        int64
		Title, Lead string
		Document    []byte
	}
	if err := tx.SelectContext(ctx, &list, `
		SELECT e.id AS entry, d.id AS seal, a.title, l.name AS lead, d.document
		FROM entry e JOIN seal d ON d.id = e.seal_id JOIN application a ON a.id = e.application_id
		JOIN relation r ON r.application_id = a.id AND r.kind = 'lead' JOIN account l ON l.id = r.account_id
		WHERE e.id = ANY($1) ORDER BY e.id`, entries); err != nil {
		return 0, err
	}
	var not []int64
	for _, x := range list {
		var doc seal.Document
		if err := json.Unmarshal(x.Document, &doc); err != nil {
			return 0, err
		}
		p, ok := projectOf(f, &doc, x.Lead)
		if !ok {
			not = append(not, x.Entry)
			continue
		}
		agreed++
		shown, err := json.Marshal(p.Shown)
		if err != nil {
			return 0, err
		}
		pictures, err := json.Marshal(p.Pictures)
		if err != nil {
			return 0, err
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO vote_project (round_id, entry_id, seal_id, title, cost, shown, pictures) VALUES (@round, @entry, @seal, @title, @cost, @shown, @pictures)
			ON CONFLICT (entry_id) DO UPDATE SET seal_id = @seal, title = @title, cost = @cost, shown = @shown, pictures = @pictures,
			  ruling = CASE WHEN vote_project.shown = @shown AND vote_project.pictures = @pictures AND vote_project.title = @title THEN vote_project.ruling ELSE '' END`,
			db.Named{"round": r.ID, "entry": x.Entry, "seal": x.Seal, "title": x.Title, "cost": p.Cost, "shown": string(shown), "pictures": string(pictures)}); err != nil {
			return 0, err
		}
	}
	_, err = tx.ExecContext(ctx, `DELETE FROM vote_project WHERE entry_id = ANY($1)`, not)
	return agreed, err
}

// projectOf is what the public would see of a case; ok is false where its applicants did
// not agree to it.
func projectOf(f *form.Form, doc *seal.Document, lead string) (p Project, ok bool) {
	v := f.Design.Vote
	filled := doc.Filled(lead)
	path := f.Walk(filled)
	if v.Agreed != "" {
		st := path.Find(v.Agreed)
		if st == nil || st.Asked != condition.Yes || st.Value.Yes == nil || !*st.Value.Yes {
			return p, false
		}
	}
	p.Shown, p.Pictures = []seal.Said{}, []int64{}
	for _, k := range v.Shows {
		q, st := f.Question(k), path.Find(k)
		if q == nil || st == nil || st.Asked != condition.Yes {
			continue
		}
		if q.Keeps() == form.AsFiles {
			for _, x := range doc.Files {
				if x.Slot == k && x.Facts.Kind == slot.Picture {
					p.Pictures = append(p.Pictures, x.ID)
				}
			}
			continue
		}
		if text := say.Answer(f, q, filled, st); text != "" {
			p.Shown = append(p.Shown, seal.Said{Label: q.Label, Text: text})
		}
	}
	if q := f.VoteCost(); q != nil {
		if st := path.Find(q.Key); st != nil && st.Presence == condition.Given && st.Value.Number != nil {
			p.Cost = st.Value.Number.Num
		}
	}
	return p, true
}

// Look lets a project through, or holds it back with a reason.
func (s *Store) Look(
	ctx context.Context,
	tx *db.Tx,
	r round.Round,
	f *form.Form,
	project int64,
	ruling, why string,
) error {
	v, err := s.lock(ctx, tx, r, f)
	if err != nil {
		return err
	}
	if v.Laid != nil {
		return ErrLaid
	}
	why = strings.TrimSpace(why)
	switch {
	case ruling != "shown" && ruling != "held" && ruling != "":
		return refusal.Unfit("say whether it is shown")
	case ruling == "held" && why == "":
		return refusal.In("why", "Say why it is held back.")
	case len(why) > mostWhy:
		return refusal.In("why", "Say why in up to 1,000 characters.")
	}
	app, title, err := s.project(ctx, tx, r, project)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE vote_project SET ruling = $2, why = $3, by_id = $4, at = $5 WHERE id = $1`, project, ruling, why, tx.By.ID,
		tx.At); err != nil {
		return err
	}
	verb := map[string]say.Verb{"shown": "vote-shown", "held": "vote-held", "": "vote-unruled"}[ruling]
	return trail.Write(ctx, tx, verb, app, r.ID, map[string]string{"title": title, "why": why})
}

const mostWhy = 1000

func (s *Store) project(
	ctx context.Context,
	tx *db.Tx,
	r round.Round,
	project int64,
) (app int64, title string, err error) {
	var x struct {
		App   int64
		Title string
	}
	if err := tx.GetContext(ctx, &x, `
		SELECT e.application_id AS app, p.title FROM vote_project p JOIN entry e ON e.id = p.entry_id WHERE p.id = $1 AND p.round_id = $2`, project, r.ID); err != nil {
		return 0, "", refusal.Missing("there is no such project in this vote")
	}
	return x.App, x.Title, nil
}

// Ready is what stands in the way of laying the paper out, besides Stops among the
// faults: projects that nobody has looked at.
func Ready(list []Project) (shown []Project, unseen int) {
	for _, p := range list {
		switch {
		case p.Ruling == "shown" && p.Same:
			shown = append(shown, p)
		case p.Ruling == "" || !p.Same:
			unseen++
		}
	}
	return shown, unseen
}

// Faults of a vote on these projects.
func Faults(f *form.Form, shown []Project) []vote.Fault {
	titles := make([]string, len(shown))
	for i, p := range shown {
		titles[i] = p.Title
	}
	e := Election(f, shown)
	return e.Faults(titles, f.Design.Currency)
}

// LayOut fixes the ballot paper: what was let through gets its numbers, by which ties are
// settled, in the order of the references. Votes are taken when their time comes.
func (s *Store) LayOut(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form) error {
	v, err := s.lock(ctx, tx, r, f)
	if err != nil {
		return err
	}
	if v.Laid != nil {
		return ErrLaid
	}
	if !tx.At.Before(f.VoteWindow().Closes) {
		return refusal.Over("the time of this vote is over").But("move its end in the design first")
	}
	list, err := s.Projects(ctx, tx, r.ID)
	if err != nil {
		return err
	}
	shown, unseen := Ready(list)
	if unseen > 0 {
		return refusal.New(
			phrase.Count(int64(unseen), "project was", "projects were") + " looked at by nobody",
		).But(
			"let each through, or hold it back",
		)
	}
	if len(shown) > form.MostOnBallot {
		return refusal.Newf(
			"%d projects are more than anybody reads; a ballot paper has %d at most",
			len(shown),
			form.MostOnBallot,
		).
			But(
				"let the panel choose first, and vote among those",
			)
	}
	for _, x := range Faults(f, shown) {
		if x.Stops {
			return refusal.New(strings.TrimSuffix(phrase.LowerInitial(x.Says), "."))
		}
	}
	ids := make([]int64, len(shown))
	for i, p := range shown {
		ids[i] = p.ID
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE vote_project p SET number = n.number, off = '' FROM unnest($1::bigint[]) WITH ORDINALITY AS n(id, number) WHERE p.id = n.id`, ids); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE vote SET laid_at = $2, laid_by = $3, design_id = $4 WHERE round_id = $1`, r.ID, tx.At, tx.By.ID, r.DesignID); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "vote-laid", 0, r.ID, map[string]string{"n": id(int64(len(shown)))})
}

// TakeBack takes the ballot paper back while the box is empty.
func (s *Store) TakeBack(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, why string) error {
	v, err := s.lock(ctx, tx, r, f)
	if err != nil {
		return err
	}
	if v.Laid == nil {
		return refusal.New("there is no ballot paper to take back")
	}
	if why = strings.TrimSpace(why); why == "" {
		return refusal.In("why", "Say why it is taken back.")
	}
	var cast int
	if err := tx.GetContext(ctx, &cast, `SELECT count(*) FROM ballot WHERE round_id = $1`, r.ID); err != nil {
		return err
	}
	if cast > 0 {
		return refusal.New(
			phrase.Count(int64(cast), "ballot is", "ballots are") + " in the box",
		).But(
			"take single projects off the paper instead",
		)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE vote_project SET number = NULL, off = '' WHERE round_id = $1`, r.ID); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE vote SET laid_at = NULL, laid_by = NULL WHERE round_id = $1`, r.ID); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "vote-taken-back", 0, r.ID, map[string]string{"why": why})
}

// TakeOff takes one project off the paper, or puts it back: nobody is asked to vote anew,
// and the votes for it count while it stands there.
func (s *Store) TakeOff(
	ctx context.Context,
	tx *db.Tx,
	r round.Round,
	f *form.Form,
	project int64,
	off bool,
	why string,
) error {
	v, err := s.lock(ctx, tx, r, f)
	if err != nil {
		return err
	}
	if v.Published != nil {
		return refusal.New("the result is published").But("take it back first, with a reason")
	}
	if why = strings.TrimSpace(why); why == "" || len(why) > mostWhy {
		return refusal.In("why", "Say why: it stands on the ballot paper.")
	}
	app, title, err := s.project(ctx, tx, r, project)
	if err != nil {
		return err
	}
	verb, stands := say.Verb("vote-taken-off"), why
	if !off {
		verb, stands = "vote-put-back", ""
	}
	if _, err := tx.ExecContext(ctx, `UPDATE vote_project SET off = $2 WHERE id = $1`, project, stands); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE vote SET counted_at = NULL, document = NULL, summary = NULL WHERE round_id = $1`, r.ID); err != nil {
		return err
	}
	return trail.Write(ctx, tx, verb, app, r.ID, map[string]string{"title": title, "why": why})
}
