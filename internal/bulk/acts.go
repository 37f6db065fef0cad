package bulk

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/letter"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/check"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// Act is what is done to each case.
type Act string

// The acts.
const (
	Write    Act = "write"
	Nudge    Act = "nudge"
	Settle   Act = "settle"
	HandBack Act = "hand back"
	MoreTime Act = "more time"
	HandTo   Act = "hand to"
	PutLabel Act = "label"
	OffLabel Act = "unlabel"
	Rework   Act = "work rules"
)

// Acts lists them in the order in which they are offered.
var Acts = []Act{Write, Nudge, HandTo, MoreTime, Settle, Rework, HandBack, PutLabel, OffLabel}

// Args is what an act must be told; each takes what it needs.
type Args struct {
	Subject   string     `json:"subject,omitempty"` // Write
	Text      string     `json:"text,omitempty"`    // Write, HandBack
	Rule      form.Key   `json:"rule,omitempty"`    // Settle
	Yes       bool       `json:"yes,omitempty"`
	Note      string     `json:"note,omitempty"`      // Settle, MoreTime: the reason
	Questions []form.Key `json:"questions,omitempty"` // HandBack
	Days      int        `json:"days,omitempty"`      // HandBack: working days
	Account   int64      `json:"account,omitempty"`   // HandTo; 0: to whoever looks after the place
	Until     time.Time  `json:"until,omitzero"`      // MoreTime
	Label     string     `json:"label,omitempty"`
}

// act is all there is to one.
type act struct {
	label  string        // on its button
	needs  access.Action // of whoever does it, for each case
	leaves bool          // something leaves the house, or a case goes on: it is held first
	// check refuses what it was told before any case is looked at; nil for nothing to tell.
	check func(a Args) error
	// do does it to a locked case; odd is what somebody should see first.
	do func(ctx context.Context, s *Store, tx *db.Tx, c application.Case, a Args) (says string, odd bool, undo any,
		err error)
	// undo takes it back, from what do gave; nil where what left the house cannot be.
	undo func(ctx context.Context, s *Store, tx *db.Tx, c application.Case, a Args, undo []byte) error
}

// Label of the act, on its button.
func (a Act) Label() string { return acts[a].label }

// Needs is what somebody must be allowed to do to a case.
func (a Act) Needs() access.Action { return acts[a].needs }

// Leaves reports that something leaves the house, so that it is held first.
func (a Act) Leaves() bool { return acts[a].leaves }

// OfRound reports an act that speaks of rules or questions, which each round has
// its own of.
func (a Act) OfRound() bool { return a == Settle || a == HandBack }

// Plain reports an act that need not be told anything.
func (a Act) Plain() bool { return a == Nudge || a == Rework }

// Undoes reports that it can be taken back after it is done.
func (a Act) Undoes() bool { return acts[a].undo != nil }

// Check refuses what an act was told, in a sentence.
func (a Act) Check(args Args) error {
	if check := acts[a].check; check != nil {
		return check(args)
	}
	return nil
}

var acts = map[Act]act{
	Write: {label: "Write…", needs: access.WriteTo, leaves: true, check: checkWrite, do: write},
	Nudge: {label: "Nudge", needs: access.Nudge, leaves: true, do: nudge},
	Settle: {label: "Settle a rule…", needs: access.SettleCheck, leaves: true, check: func(a Args) error {
		switch {
		case a.Rule == "":
			return refusal.In("rule", "Choose the rule.")
		case strings.TrimSpace(a.Note) == "" || len(a.Note) > 2000:
			return refusal.In("note", check.ErrNote.Error())
		}
		return nil
	}, do: settle},
	Rework: {label: "Work rules anew", needs: access.SettleCheck, leaves: true,
		do: func(ctx context.Context, s *Store, tx *db.Tx, c application.Case, _ Args) (string, bool, any, error) {
			says, odd, err := s.Checks.Rework(ctx, tx, c)
			return says, odd, nil, err
		}},
	HandBack: {label: "Hand back…", needs: access.AskQuery, leaves: true, check: func(a Args) error {
		switch {
		case strings.TrimSpace(a.Text) == "" || len(a.Text) > application.MostQueryText:
			return refusal.In("text", "Say what you need to know, in up to 4,000 characters.")
		case len(a.Questions) == 0:
			return refusal.In("questions", "Tick at least one question that they may answer again.")
		case a.Days < 1 || a.Days > application.MostQueryDays:
			return refusal.In("days", "Give them from 1 to 60 working days.")
		}
		return nil
	}, do: handBack},
	MoreTime: {label: "More time…", needs: access.GiveTime, leaves: true, check: func(a Args) error {
		switch {
		case a.Until.IsZero():
			return refusal.In("until", "Say until when, with day and hour.")
		case strings.TrimSpace(a.Note) == "" || len(a.Note) > 2000:
			return refusal.In("note", "Give the reason, in up to 2,000 characters. It is kept, and told to each of them.")
		}
		return nil
	}, do: moreTime},
	HandTo: {label: "Hand to…", needs: access.GiveInHand, do: handTo,
		undo: func(ctx context.Context, s *Store, tx *db.Tx, c application.Case, a Args, undo []byte) error {
			var before int64
			if err := json.Unmarshal(undo, &before); err != nil {
				return err
			}
			now, err := s.Colleagues.InHand(ctx, tx, c)
			if err != nil {
				return err
			}
			if now != a.Account {
				return refusal.Unfit("it was handed to somebody else meanwhile")
			}
			_, err = s.Colleagues.Hand(ctx, tx, c, before)
			return err
		}},
	PutLabel: {label: "Label…", needs: access.LabelCase, check: checkLabel, do: putLabel(true), undo: backLabel(false)},
	OffLabel: {label: "Take a label off…", needs: access.LabelCase, check: checkLabel, do: putLabel(false),
		undo: backLabel(true)},
}

// Fields are what a text to many can name.
var Fields = []string{"name", "title", "ref", "round", "closes", "missing", "asked", "office"}

// MostText of a mail to many, in bytes.
const MostText = 6000

func checkWrite(a Args) error {
	values := map[string]string{}
	for _, f := range Fields {
		values[f] = ""
	}
	switch {
	case strings.TrimSpace(a.Subject) == "" || len(a.Subject) > 200:
		return refusal.In("subject", "Give the mail a subject of up to 200 characters.")
	case strings.TrimSpace(a.Text) == "" || len(a.Text) > MostText:
		return refusal.In("text", "Write the mail, in up to 6,000 characters.")
	}
	for field, text := range map[string]string{"subject": a.Subject, "text": a.Text} {
		if _, err := letter.Fill(text, values); err != nil {
			no, ok := refusal.Of(err)
			if !ok {
				return err
			}
			return refusal.In(field, no.Sentence())
		}
	}
	return nil
}

// WrittenTo is the kind of a mail to many.
const WrittenTo = "written-to"

// writtenLately is within which time a second mail is odd.
const writtenLately = 24 * time.Hour

func write(ctx context.Context, s *Store, tx *db.Tx, c application.Case, a Args) (string, bool, any, error) {
	if c.State.Is(lifecycle.Gone) {
		return "", false, nil, refusal.Unfit("it was withdrawn")
	}
	f, _, path, err := s.Cases.Walk(ctx, tx, c, tx.At)
	if err != nil {
		return "", false, nil, err
	}
	st, err := s.Cases.Standing(ctx, tx, c.EntryID)
	if err != nil {
		return "", false, nil, err
	}
	values := map[string]string{"name": c.LeadName, "title": c.Title, "ref": c.Ref, "round": c.RoundName,
		"office": s.Post.Name(), "closes": calendar.WallOf(c.Window(f).Closes, f.Zone).Words(), "missing": "nothing"}
	if c.State.Open() {
		var lacks []string
		said := map[string]bool{}
		for _, o := range path.Obstacles {
			if what := say.Stuck(o.Code); !said[what] {
				said[what] = true
				lacks = append(lacks, "– "+what)
			}
		}
		if len(lacks) > 0 {
			values["missing"] = strings.Join(lacks, "\n")
		}
	}
	if st.Asked != nil {
		values["asked"] = money.Format(*st.Asked, f.Design.Currency)
	}
	l := post.Letter{Kind: WrittenTo, Account: c.LeadID, Application: c.ID, Round: c.RoundID, To: c.LeadEmail,
		ToName: c.LeadName, ReplyTo: f.Design.Contact}
	if l.Subject, err = letter.Fill(a.Subject, values); err != nil {
		return "", false, nil, err
	}
	if l.Body, err = letter.Fill(a.Text, values); err != nil {
		return "", false, nil, err
	}
	lately, err := s.Post.WroteLately(ctx, tx, c.ID, WrittenTo, tx.At.Add(-writtenLately))
	if err != nil {
		return "", false, nil, err
	}
	if _, err := s.Post.Queue(ctx, tx, l); err != nil {
		return "", false, nil, err
	}
	if err := trail.Write(ctx, tx, "wrote-to", c.ID, c.RoundID, map[string]string{"subject": l.Subject}); err != nil {
		return "", false, nil, err
	}
	if lately != "" {
		return say.WritesTo(c.LeadName) + "; “" + lately + "” went to them within a day", true, nil, nil
	}
	return say.WritesTo(c.LeadName), false, nil, nil
}

func nudge(ctx context.Context, s *Store, tx *db.Tx, c application.Case, _ Args) (string, bool, any, error) {
	whom, err := s.Intake.Nudge(ctx, tx, c)
	return say.WritesTo(whom), false, nil, err
}

func settle(ctx context.Context, s *Store, tx *db.Tx, c application.Case, a Args) (string, bool, any, error) {
	found, err := s.Checks.Of(ctx, tx, c.EntryID)
	if err != nil {
		return "", false, nil, err
	}
	waits := false
	for _, x := range found {
		waits = waits || x.Rule == a.Rule && x.Outcome == form.Person && x.Settled == nil
	}
	if !waits {
		return "", false, nil, refusal.Unfit("this rule waits for nobody here")
	}
	if err := s.Checks.Settle(ctx, tx, c, a.Rule, a.Yes, a.Note); err != nil {
		return "", false, nil, err
	}
	after, err := s.Cases.ByEntry(ctx, tx, c.EntryID)
	if err != nil {
		return "", false, nil, err
	}
	return say.Settles(c.State, after.State), after.State.Is(lifecycle.TurnedDown), nil, nil
}

func handBack(ctx context.Context, s *Store, tx *db.Tx, c application.Case, a Args) (string, bool, any, error) {
	q, err := s.Cases.Ask(ctx, tx, c, a.Text, a.Questions, a.Days)
	if err != nil {
		return "", false, nil, err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return "", false, nil, err
	}
	return "handed back to " + c.LeadName + ", to be answered by " + calendar.WallOf(q.DueAt, f.Zone).Words(), false, nil,
		nil
}

func moreTime(ctx context.Context, s *Store, tx *db.Tx, c application.Case, a Args) (string, bool, any, error) {
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return "", false, nil, err
	}
	now := c.Window(f).Closes
	if err := s.Cases.GiveTime(ctx, tx, c, a.Until, a.Note); err != nil {
		return "", false, nil, err
	}
	return fmt.Sprintf("until %s instead of %s", calendar.WallOf(a.Until, f.Zone).Words(),
		calendar.WallOf(now, f.Zone).Words()), false, nil, nil
}

func handTo(ctx context.Context, s *Store, tx *db.Tx, c application.Case, a Args) (string, bool, any, error) {
	before, err := s.Colleagues.Hand(ctx, tx, c, a.Account)
	if err != nil {
		return "", false, nil, err
	}
	if before == a.Account {
		return "", false, nil, refusal.Unfit(map[bool]string{true: "nobody looks after it by hand",
			false: "it is with them already"}[a.Account == 0])
	}
	names, err := s.People.Names(ctx, tx, []int64{before, a.Account})
	if err != nil {
		return "", false, nil, err
	}
	return say.HandsTo(names[before], names[a.Account]), before != 0, before, nil
}

func checkLabel(a Args) error {
	if len(a.Label) > 40 || strings.TrimSpace(a.Label) == "" {
		return refusal.In("label", "A label is a word or two, up to 40 characters.")
	}
	return nil
}

func putLabel(on bool) func(context.Context, *Store, *db.Tx, application.Case, Args) (string, bool, any, error) {
	return func(ctx context.Context, s *Store, tx *db.Tx, c application.Case, a Args) (string, bool, any, error) {
		changed, err := s.Colleagues.Label(ctx, tx, c, a.Label, on)
		if err != nil {
			return "", false, nil, err
		}
		if !changed {
			return "", false, nil, refusal.Unfit(map[bool]string{true: "it has this label already",
				false: "it does not have this label"}[on])
		}
		now, err := s.Colleagues.Labels(ctx, tx, c)
		if err != nil {
			return "", false, nil, err
		}
		if len(now) == 0 {
			return "no label then", false, true, nil
		}
		return "labelled " + phrase.List(now) + " then", false, true, nil
	}
}

func backLabel(on bool) func(context.Context, *Store, *db.Tx, application.Case, Args, []byte) error {
	return func(ctx context.Context, s *Store, tx *db.Tx, c application.Case, a Args, _ []byte) error {
		_, err := s.Colleagues.Label(ctx, tx, c, a.Label, on)
		return err
	}
}
