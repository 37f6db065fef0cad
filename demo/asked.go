package demo

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/reference"
	"ulvant/internal/standin/tray"
)

// named is somebody whom an applicant of another programme named, and how far
// their answer is.
type named struct {
	lead, body string // whose application
	question   form.Key
	name       string
	email      string
	knows      string
	waived     bool
	upTo       string // to ask, asked, bounced, accepted, uploaded, sent, declined, confirmed
	letter     string
	theirs     map[form.Key]string
	after      time.Duration // from the opening of the round
}

var well = map[form.Key]string{"bench": "best", "others": "good", "weather": "best", "finish": "good"}

// people of the scholarships and the fellowship: Dacian Rowe is asked from both,
// and from the grants.
var namedPeople = map[string][]named{
	"Wooden Boat Trades Scholarships": {
		{lead: "Juno Blackadder", body: "leavers", question: "teacher", name: "Morwenna Tage",
			email: "m.tage@corvoe-high.example", knows: "taught me woodwork for three years", upTo: "uploaded",
			letter: "She asks why before she asks how, and then does it twice.", after: 100 * time.Hour},
		{lead: "Juno Blackadder", body: "leavers", question: "workmate", name: "Dacian Rowe", email: Referee,
			knows: "I crewed his survey boat two summers", waived: false, upTo: "asked", after: 101 * time.Hour},
		{lead: "Tam O’Rourke", body: "yards", question: "workmate", name: "Dacian Rowe", email: Referee,
			knows: "we refitted the warden’s launch together", waived: true, upTo: "uploaded", theirs: well,
			letter: "He found the rot that three surveys had missed, and told us on a Friday afternoon.",
			after:  120 * time.Hour},
		{lead: "Tam O’Rourke", body: "yards", question: "teacher", name: "Ines Callory", email: "ines.callory@tral.example",
			knows: "head of the night school at Tarl", upTo: "bounced", after: 121 * time.Hour},
	},
	"Night Ecology Fellowship": {
		{lead: "Isolde Fairweather", body: "night", question: "scientist", name: "Dacian Rowe", email: Referee,
			knows: "has counted the same roosts since 2012", upTo: "accepted", after: 200 * time.Hour},
		{lead: "Isolde Fairweather", body: "night", question: "host", name: "Osgar Pellow",
			email: "osgar.pellow@quays.example",
			knows: "harbour master of the unlit quays", upTo: "confirmed", after: 201 * time.Hour},
		{lead: "Corentin Le Goff", body: "moths", question: "scientist", name: "Hedda Clay",
			email: "hedda.clay@tarl-museum.example", knows: "keeps the moth book at Tarl", upTo: "to ask",
			after: 230 * time.Hour},
	},
}

// asked plays the requests of the other programmes.
func (b *builder) asked() {
	for _, p := range programmes {
		s := p.settings(b.now, b.zone)
		opens, _ := s.Opens.In(b.zone)
		for _, n := range namedPeople[s.Programme] {
			b.on(opens.Add(n.after), func(ctx context.Context) error { return b.names(ctx, n) })
		}
	}
}

func (b *builder) names(ctx context.Context, n named) error {
	c, err := b.entryOf(ctx, n.lead, n.body)
	if err != nil {
		return err
	}
	var id int64
	if err := b.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) (err error) {
		id, err = b.Referees.Name(ctx, tx, c, n.question, reference.Person{Name: n.name, Email: n.email, Knows: n.knows,
			Waived: &n.waived, Contact: true, Later: n.upTo == "to ask"})
		return err
	}); err != nil {
		return err
	}
	at := b.at
	link := func(after time.Duration, do func(ctx context.Context, tx *db.Tx) error) {
		b.on(at.Add(after), func(ctx context.Context) error {
			return b.Do(ctx, db.Actor{Kind: "link", ID: id}, b.at, do)
		})
	}
	switch n.upTo {
	case "bounced":
		b.on(at.Add(time.Minute), func(ctx context.Context) error { return b.comesBack(ctx, n.email) })
	case "confirmed":
		link(26*time.Hour, func(ctx context.Context, tx *db.Tx) error { return b.confirms(ctx, tx, id) })
	case "accepted", "uploaded":
		link(20*time.Hour, func(ctx context.Context, tx *db.Tx) error { return b.Referees.Accept(ctx, tx, id) })
	}
	if n.upTo == "uploaded" {
		answers := map[form.Place]form.Answer{}
		for k, v := range n.theirs {
			answers[form.Place{Question: k}] = form.Answer{Raw: v}
		}
		link(28*time.Hour, func(ctx context.Context, tx *db.Tx) error {
			return b.Referees.Keep(ctx, tx, id, reference.Draft{Version: 3, Text: n.letter, Answers: answers})
		})
	}
	return nil
}

// comesBack has the latest mail to an address come back, as its mail server would.
func (b *builder) comesBack(ctx context.Context, address string) error {
	var token string
	if err := b.DB.GetContext(ctx, &token,
		`SELECT bounce_token FROM post WHERE to_address = $1 ORDER BY id DESC LIMIT 1`, address); err != nil {
		return err
	}
	return b.Post.Bounced(ctx, b.at, token, tray.Report("bounce+"+token+"@ostrel-trust.example", address, "5.1.2",
		"550 5.1.2 no such domain", nil))
}

// confirms has a signatory confirm what is asked as it stands.
func (b *builder) confirms(ctx context.Context, tx *db.Tx, id int64) error {
	x, c, err := b.Referees.Load(ctx, tx, id)
	if err != nil {
		return err
	}
	f, err := b.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	filled, err := b.Cases.Filled(ctx, tx, c, f, b.at)
	if err != nil {
		return err
	}
	return b.Referees.Confirm(ctx, tx, id, f.Fingerprint(f.Question(x.Question), filled), nil)
}
