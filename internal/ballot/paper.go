package ballot

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/core/vote"
	"ulvant/internal/platform/db"
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

// PerList is how many projects are listed at once.
const PerList = 200

// Projects that could stand on the paper, in the order of their references, so many from
// one on.
func (s *Store) Projects(ctx context.Context, q db.Querier, round int64, from, most int) (out []Project, err error) {
	err = q.SelectContext(
		ctx,
		&out,
		projectColumns+`WHERE p.round_id = $1 ORDER BY a.ref OFFSET $2 LIMIT $3`,
		round,
		from,
		most,
	)
	return unfold(out, err)
}

// Project by its number; ErrNoProject where there is none in the round’s vote.
func (s *Store) Project(ctx context.Context, q db.Querier, round, id int64) (Project, error) {
	var out []Project
	err := q.SelectContext(ctx, &out, projectColumns+`WHERE p.round_id = $1 AND p.id = $2`, round, id)
	if out, err = unfold(out, err); err == nil && len(out) == 0 {
		err = ErrNoProject
	}
	if err != nil {
		return Project{}, err
	}
	return out[0], nil
}

// ErrNoProject: there is none by that number.
var ErrNoProject = refusal.Missing("there is no such project in this vote")

// LetThrough are the projects that may be laid out, up to one more than a paper holds.
func (s *Store) LetThrough(ctx context.Context, q db.Querier, round int64) (out []Project, err error) {
	err = q.SelectContext(
		ctx,
		&out,
		projectColumns+`WHERE p.round_id = $1 AND p.ruling = 'shown' AND e.seal_id = p.seal_id ORDER BY a.ref LIMIT $2`,
		round,
		form.MostOnBallot+1,
	)
	return unfold(out, err)
}

// Looked is how far the projects of a vote are looked through. What was sent anew since
// it was read out counts as looked at by nobody.
type Looked struct{ All, Shown, Held, Unseen int }

// Looked counts them.
func (s *Store) Looked(ctx context.Context, q db.Querier, round int64) (n Looked, err error) {
	err = q.GetContext(ctx, &n, `
		SELECT count(*) AS all, count(*) FILTER (WHERE same AND ruling = 'shown') AS shown, count(*) FILTER (WHERE same AND ruling = 'held') AS held,
		       count(*) FILTER (WHERE NOT same OR ruling = '') AS unseen
		FROM (SELECT p.ruling, e.seal_id = p.seal_id AS same FROM vote_project p JOIN entry e ON e.id = p.entry_id WHERE p.round_id = $1) p`, round)
	return n, err
}

// Unseen is the next project after one that nobody has looked at, beginning again at the
// first; 0 where there is none. after 0 is the first of all.
func (s *Store) Unseen(ctx context.Context, q db.Querier, round, after int64) (id int64, err error) {
	err = q.GetContext(ctx, &id, `
		SELECT COALESCE((
		  SELECT p.id FROM vote_project p JOIN entry e ON e.id = p.entry_id JOIN application a ON a.id = e.application_id
		  LEFT JOIN (SELECT y.ref FROM vote_project x JOIN entry z ON z.id = x.entry_id JOIN application y ON y.id = z.application_id WHERE x.id = $2) f ON true
		  WHERE p.round_id = $1 AND p.id <> $2 AND (p.ruling = '' OR e.seal_id <> p.seal_id)
		  ORDER BY COALESCE(a.ref > f.ref, true) DESC, a.ref LIMIT 1), 0)`, round, after)
	return id, err
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

// ErrLaid: the ballot paper is fixed.
var ErrLaid = refusal.New("the ballot paper is laid out").But("take it back first; single projects can be taken off it")

// Look lets a project through, or holds it back with a reason.
func (s *Store) Look(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, project int64,
	ruling, why string) error {
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
	if _, err := tx.ExecContext(ctx, `UPDATE vote_project SET ruling = $2, why = $3, by_id = $4, at = $5 WHERE id = $1`,
		project, ruling, why, tx.By.ID,
		tx.At); err != nil {
		return err
	}
	verb := map[string]say.Verb{"shown": "vote-shown", "held": "vote-held", "": "vote-unruled"}[ruling]
	return trail.Write(ctx, tx, verb, app, r.ID, map[string]string{"title": title, "why": why})
}

const mostWhy = 1000

// reasoned is a reason that must be given, trimmed; says is what is said where it lacks.
func reasoned(why, says string) (string, error) {
	switch why = strings.TrimSpace(why); {
	case why == "":
		return "", refusal.In("why", says)
	case len(why) > mostWhy:
		return "", refusal.In("why", "Say why in up to 1,000 characters.")
	}
	return why, nil
}

func (s *Store) project(ctx context.Context, tx *db.Tx, r round.Round,
	project int64) (app int64, title string, err error) {
	var x struct {
		App   int64
		Title string
	}
	if err := tx.GetContext(ctx, &x, `
		SELECT e.application_id AS app, p.title FROM vote_project p JOIN entry e ON e.id = p.entry_id WHERE p.id = $1 AND p.round_id = $2`, project, r.ID); err != nil {
		return 0, "", ErrNoProject
	}
	return x.App, x.Title, nil
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

// LayOut fixes the ballot paper and the rules of the vote: what was let through gets its numbers, by which ties are
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
	n, err := s.Looked(ctx, tx, r.ID)
	if err != nil {
		return err
	}
	if n.Unseen > 0 {
		return refusal.New(phrase.Count(int64(n.Unseen), "project was", "projects were") + " looked at by nobody").
			But("let each through, or hold it back")
	}
	if n.Shown > form.MostOnBallot {
		return refusal.Newf("%d projects are more than anybody reads; a ballot paper has %d at most", n.Shown,
			form.MostOnBallot).
			But("let the panel choose first, and vote among those")
	}
	shown, err := s.LetThrough(ctx, tx, r.ID)
	if err != nil {
		return err
	}
	for _, x := range Faults(f, shown) {
		if x.Stops {
			return refusal.New(strings.TrimSuffix(phrase.LowerInitial(x.Says), "."))
		}
	}
	e := Election(f, shown)
	for _, x := range e.Rehearse(v.Seed) {
		if x.Broken != "" {
			return refusal.New("the rehearsal of the count failed: " + x.Broken).But("tell who runs this site")
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
	if _, err := tx.ExecContext(ctx, `UPDATE vote SET laid_at = $2, laid_by = $3, design_id = $4 WHERE round_id = $1`,
		r.ID, tx.At, tx.By.ID, r.DesignID); err != nil {
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
	if why, err = reasoned(why, "Say why it is taken back."); err != nil {
		return err
	}
	var cast int
	if err := tx.GetContext(ctx, &cast, `SELECT count(*) FROM ballot WHERE round_id = $1`, r.ID); err != nil {
		return err
	}
	if cast > 0 {
		return refusal.New(phrase.Count(int64(cast), "ballot is", "ballots are") + " in the box").But(
			"take single projects off the paper instead")
	}
	if _, err := tx.ExecContext(ctx, `UPDATE vote_project SET number = NULL, off = '' WHERE round_id = $1`,
		r.ID); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE vote SET laid_at = NULL, laid_by = NULL WHERE round_id = $1`,
		r.ID); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "vote-taken-back", 0, r.ID, map[string]string{"why": why})
}

// TakeOff takes one project off the paper, or puts it back: nobody is asked to vote anew,
// and the votes for it count while it stands there.
func (s *Store) TakeOff(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, project int64, off bool,
	why string) error {
	v, err := s.lock(ctx, tx, r, f)
	if err != nil {
		return err
	}
	if v.Published != nil {
		return refusal.New("the result is published").But("take it back first, with a reason")
	}
	if why, err = reasoned(why, "Say why: it stands on the ballot paper."); err != nil {
		return err
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
	if _, err := tx.ExecContext(ctx,
		`UPDATE vote SET counted_at = NULL, document = NULL, summary = NULL WHERE round_id = $1`, r.ID); err != nil {
		return err
	}
	return trail.Write(ctx, tx, verb, app, r.ID, map[string]string{"title": title, "why": why})
}

// Stands is the number of a case on its round’s ballot paper, once that may be seen; 0
// where it does not stand there.
func (s *Store) Stands(ctx context.Context, q db.Querier, v Vote, f *form.Form, entry int64,
	at time.Time) (number int, err error) {
	if v.Laid == nil || v.Phase(f, at) == Preparing {
		return 0, nil
	}
	err = q.GetContext(ctx, &number, `SELECT COALESCE((SELECT number FROM vote_project WHERE entry_id = $1), 0)`, entry)
	return number, err
}
