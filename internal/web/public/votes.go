package public

import (
	"time"

	"ulvant/core/form"
	"ulvant/internal/ballot"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
)

// listedVote is a public vote as a visitor finds it.
type listedVote struct {
	Key, Round, Asks string
	Phase            ballot.Phase
	Opens, Closes    time.Time
	Zone             *time.Location
}

func voteOf(rd round.Round, f *form.Form, v ballot.Vote, at time.Time) *listedVote {
	if f.Votes() == nil {
		return nil
	}
	w := f.VoteWindow()
	return &listedVote{Key: rd.Key, Round: rd.Name, Asks: f.Design.Vote.Asks, Phase: v.Phase(f, at),
		Opens: w.Opens, Closes: w.Closes, Zone: f.Zone}
}

// votes are those under way, and those whose result was published lately.
func votes(r *site.Request) (out []listedVote, err error) {
	list, err := r.Ballots.Listed(r.Context, r.DB, r.At)
	if err != nil {
		return nil, err
	}
	ids := make([]int64, len(list))
	by := map[int64]ballot.Vote{}
	for i, v := range list {
		ids[i], by[v.RoundID] = v.RoundID, v
	}
	rounds, err := r.Program.Rounds.Some(r.Context, ids)
	if err != nil {
		return nil, err
	}
	for _, rd := range rounds {
		f, err := r.Program.Rounds.Published(r.Context, r.DB, rd)
		if err != nil {
			return nil, err
		}
		if v := voteOf(rd, f, by[rd.ID], r.At); v != nil && (v.Phase == ballot.Running || v.Phase == ballot.Result) {
			out = append(out, *v)
		}
	}
	return out, nil
}
