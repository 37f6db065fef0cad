package check

import (
	"context"
	"encoding/json"
	"net/http"
	"net/url"
	"slices"
	"time"

	"ulvant/core/declared"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
)

// Declarations asks the service at which households declare what they have.
type Declarations struct {
	Base   string // "" for none
	Client *http.Client
}

// Of asks for one: GET base/reference answers 200 with {"state": "settled" or
// "pending", "sums": {"2025": "41,200.50"}}, or 404. Whatever else happens is silence.
func (h Declarations) Of(ctx context.Context, reference, currency string) declared.Elsewhere {
	silent := declared.Elsewhere{State: declared.Silent}
	if h.Base == "" {
		return silent
	}
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, h.Base+"/"+url.PathEscape(reference), nil)
	if err != nil {
		return silent
	}
	res, err := h.Client.Do(req)
	if err != nil {
		return silent
	}
	defer res.Body.Close()
	var body struct {
		State string
		Sums  map[string]string
	}
	switch {
	case res.StatusCode == http.StatusNotFound:
		return declared.Elsewhere{State: declared.Missing}
	case res.StatusCode != http.StatusOK,
		json.NewDecoder(http.MaxBytesReader(nil, res.Body, 1<<16)).Decode(&body) != nil:
		return silent
	case body.State == "pending":
		return declared.Elsewhere{State: declared.Pending}
	}
	out := declared.Elsewhere{Sums: map[string]int64{}}
	for year, text := range body.Sums {
		n, ok := money.Parse(text, currency)
		if !ok {
			return silent
		}
		out.Sums[year] = n
	}
	return out
}

// compared is one declaration with what came of comparing it.
type compared struct {
	form.DeclaredSums
	Result declared.Result
}

// compare asks for the declarations of a sent entry, outside of transactions: it
// may take its time.
func (s *Store) compare(ctx context.Context, entry int64) (out []compared, err error) {
	c, err := s.Cases.ByEntry(ctx, s.DB, entry)
	if err != nil || c.SealID == nil {
		return nil, err
	}
	f, err := s.Cases.Rounds.Form(ctx, s.DB, c.DesignID)
	if err != nil {
		return nil, err
	}
	sealed, err := s.Cases.Now(ctx, s.DB, *c.SealID)
	if err != nil {
		return nil, err
	}
	for _, d := range f.Declarations(f.Walk(sealed.Decoded.Filled(c.LeadName))) {
		there := s.Declared.Of(ctx, d.Reference, f.Design.Currency)
		out = append(out, compared{d, declared.Compare(d.Years, d.Here, there, d.Tolerance)})
	}
	return out, nil
}

// putCompared keeps what came of it among the findings.
func (s *Store) putCompared(ctx context.Context, tx *db.Tx, f *form.Form, entry int64, list []compared,
	counts map[form.Outcome]int) error {
	for _, x := range list {
		outcome := form.Person
		if x.Result.Settled() {
			outcome = form.Holds
		}
		counts[outcome]++
		says := say.Declared(f, x.Reference, x.Result)
		if err := s.put(ctx, tx, entry, form.DeclaredRuleKey(x.Question), outcome, says); err != nil {
			return err
		}
	}
	return nil
}

// askDeclared is the job that asks once more.
type askDeclared struct {
	Entry int64 `json:"entry"`
}

// Kind names the job.
func (askDeclared) Kind() string { return "check.declared" }

// again keeps what a declaration says by now, of a case that still waits for it.
func (s *Store) again(ctx context.Context, at time.Time, a askDeclared) error {
	before, err := s.Cases.ByEntry(ctx, s.DB, a.Entry)
	if err != nil {
		return err
	}
	list, err := s.compare(ctx, a.Entry)
	if err != nil {
		return err
	}
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		c, err := s.Cases.ByEntry(ctx, tx, a.Entry)
		if err != nil {
			return err
		}
		if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil || !c.State.Is(lifecycle.ToSettle) ||
			c.SealID == nil || before.SealID == nil || *c.SealID != *before.SealID { // sent back meanwhile: that is asked for
			return err
		}
		found, err := s.Of(ctx, tx, a.Entry)
		if err != nil {
			return err
		}
		list = slices.DeleteFunc(list, func(x compared) bool { // what a person settled meanwhile stands
			return slices.ContainsFunc(found, func(f Finding) bool {
				return f.Rule == form.DeclaredRuleKey(x.Question) && f.Settled != nil
			})
		})
		f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
		if err != nil {
			return err
		}
		if err := s.putCompared(ctx, tx, f, a.Entry, list, map[form.Outcome]int{}); err != nil {
			return err
		}
		return s.concludeWorked(ctx, tx, c)
	})
}

// askAgain is how long a declaration that does not agree is left alone.
const askAgain = 20 * time.Hour

// Sweep asks again for declarations that do not agree and that nobody has settled.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	entries, err := s.unsettled(ctx, "declared-", at.Add(-askAgain))
	if err != nil {
		return err
	}
	for _, id := range entries {
		if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			return s.Jobs.Enqueue(ctx, tx, askDeclared{id}, at)
		}); err != nil {
			return err
		}
	}
	return nil
}

// takeUp works the rules of a sent entry, once declarations and registers were
// asked.
func (s *Store) takeUp(ctx context.Context, at time.Time, entry int64) error {
	list, err := s.compare(ctx, entry)
	if err != nil {
		return err
	}
	answers, err := s.registersOf(ctx, entry)
	if err != nil {
		return err
	}
	read, err := s.wordsFor(ctx, at, entry)
	if err != nil {
		return err
	}
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		if _, err := s.keepRegisters(ctx, tx, entry, answers, false); err != nil {
			return err
		}
		return s.Work(ctx, tx, entry, list, read)
	})
}

func (s *Store) registerDeclared() { jobs.Handle(s.Jobs, jobs.Short, s.again) }
