package programtest

import (
	"context"
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/vote"
	"ulvant/internal/ballot"
	"ulvant/internal/platform/db"
)

// PublicVote is a short round without readers on which the public votes for eight days from
// 1 June: a budget of 100,000 in equal shares, by confirmed address and by codes on paper.
func PublicVote(d *form.Design) {
	Unread(d)
	agree := design.NewQuestion(form.YesNo, "May the public see it and vote?")
	agree.Key, agree.Nature, agree.Blank = "agree", form.Chosen, form.MeansNo
	idea := design.NewQuestion(form.Long, "What would you do?")
	idea.Key, idea.Nature, idea.Blank = "idea", form.Chosen, form.MeansNo
	d.Sections[0].Questions = append(d.Sections[0].Questions, agree, idea)
	d.Calendar = append(d.Calendar,
		form.Moment{Key: "vote-from", Label: "the vote", At: calendar.At(calendar.NewDate(2027, 6, 1), 8, 0)},
		form.Moment{Key: "vote-to", Label: "the end of the vote", At: calendar.At(calendar.NewDate(2027, 6, 9), 20, 0)})
	d.Stages = append(d.Stages, form.Stage{Key: "public", Label: "The public votes", Does: form.Votes, From: "vote-from",
		To: "vote-to"})
	d.Vote = &form.Vote{Asks: "Which of these shall be built?", Shows: []form.Key{"idea"}, Agreed: "agree",
		Count: form.CountShares, Budget: 100_000_00,
		ByMail: true, OnPaper: true, Declares: []string{"I am 14 or older."}, Days: 7}
}

// ForVote are five projects whose costs are those of the first example of section 9 of the
// values from outside, in thousands, and one whose applicant does not want to be voted on.
var ForVote = map[string]string{
	"A": "40,000|agree = yes|idea = A jetty.", "B": "30,000|agree = yes|idea = A shed.",
	"C": "30,000|agree = yes|idea = A path.",
	"D": "20,000|agree = yes|idea = A bench.", "E": "24,000|agree = yes|idea = A light.",
	"F": "25,000|agree = no|idea = Something quiet.",
}

// Polls is a round on which the public votes.
type Polls struct{ *Panel }

// LaidOut is such a round at noon of the first day, its ballot paper laid out.
func LaidOut(t testing.TB, change func(*form.Design)) Polls {
	t.Helper()
	p := Polls{SentToRound(t, change, ForVote)}
	p.Clock.Set(p.Form.At("vote-from").Add(-24 * time.Hour))
	p.Drain()
	p.Do(func(ctx context.Context, tx *db.Tx) error {
		if _, err := p.Ballots.Gather(ctx, tx, p.Round, p.Form, nil); err != nil {
			return err
		}
		list, err := p.Ballots.Projects(ctx, tx, p.Round.ID, 0, ballot.PerList)
		if err != nil {
			return err
		}
		for _, x := range list {
			if err := p.Ballots.Look(ctx, tx, p.Round, p.Form, x.ID, "shown", ""); err != nil {
				return err
			}
		}
		return p.Ballots.LayOut(ctx, tx, p.Round, p.Form)
	})
	p.Clock.Set(p.Form.At("vote-from").Add(4 * time.Hour))
	return p
}

// Do something as the officer.
func (p Polls) Do(do func(ctx context.Context, tx *db.Tx) error) {
	p.T.Helper()
	if err := p.Try(p.Officer, do); err != nil {
		p.T.Fatal(err)
	}
}

// Vote of the round now.
func (p Polls) Vote() ballot.Vote {
	p.T.Helper()
	v, err := p.Ballots.Of(context.Background(), p.DB, p.Round.ID)
	if err != nil {
		p.T.Fatal(err)
	}
	return v
}

// Place of a project on the ballot paper, by the letter that begins its title.
func (p Polls) Place(letter rune) int {
	p.T.Helper()
	list, err := p.Ballots.OnPaper(context.Background(), p.DB, p.Round.ID)
	if err != nil {
		p.T.Fatal(err)
	}
	for i, x := range list {
		if rune(x.Title[0]) == letter {
			return i
		}
	}
	p.T.Fatalf("no project %c", letter)
	return 0
}

// Names is a ballot that names projects by the letters their titles begin with.
func (p Polls) Names(letters string) (c vote.Choice) {
	p.T.Helper()
	for _, r := range letters {
		c = append(c, p.Place(r))
	}
	return c
}

var ballotLink = regexp.MustCompile(`/ballot/([A-Za-z0-9_-]+)`)

// Asks for a ballot and takes it out of the mail.
func (p Polls) Asks(address string) ballot.Token {
	p.T.Helper()
	if err := p.Try(0, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Ask(ctx, tx, p.Round, p.Form, p.Vote(), address, "198.51.100.7")
	}); err != nil {
		p.T.Fatal(err)
	}
	p.Drain()
	return p.Mailed(address)
}

// Mailed is the ballot in the latest mail to an address; "" where it opens none.
func (p Polls) Mailed(address string) ballot.Token {
	p.T.Helper()
	list, _ := p.Tray.List(strings.TrimSpace(address), 0, 1)
	if len(list) == 0 {
		p.T.Fatalf("no mail to %s", address)
	}
	m := ballotLink.FindStringSubmatch(list[0].Body)
	if m == nil {
		return ""
	}
	return ballot.Token(m[1])
}

// Casts a ballot.
func (p Polls) Casts(t ballot.Token, letters string) error {
	return p.Try(0, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Cast(ctx, tx, p.Form, p.Vote(), t, p.Names(letters))
	})
}

// Box has so many ballots that name the same, by addresses of a domain.
func (p Polls) Box(ballots []string) {
	p.T.Helper()
	for i, letters := range ballots {
		if err := p.Casts(p.Asks(fmt.Sprintf("v%d@place%d.example", i, i)), letters); err != nil {
			p.T.Fatal(err)
		}
	}
}
