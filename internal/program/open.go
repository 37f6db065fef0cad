package program

import (
	"context"
	"fmt"
	"strings"
	"time"

	"ulvant/core/design"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/round"
)

// Open publishes a round's working design and brings its drafts to it, in one
// transaction. Once people may be writing, a change that tightens what is asked
// is told to all who are, and one that takes something away needs a reason
// (round.ErrReason), which they are told with it.
func Open(ctx context.Context, p *Program, by db.Actor, at time.Time, roundID int64, reason string) error {
	reason = strings.TrimSpace(reason)
	return p.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		changes, err := p.Rounds.Unpublished(ctx, tx, roundID)
		if err != nil {
			return err
		}
		var told []string
		for _, c := range changes {
			if c.Grade == design.TakesAway && reason == "" {
				return round.ErrReason
			}
			if c.Grade >= design.Tightens {
				told = append(told, c.Sentence)
			}
		}
		published, _, err := p.Rounds.Publish(ctx, tx, roundID)
		if err != nil {
			return err
		}
		drafts, err := p.Cases.MoveDrafts(ctx, tx, roundID, published)
		if err != nil || len(told) == 0 {
			return err
		}
		for _, c := range drafts {
			if err := tellOfChange(ctx, tx, p.Post, c, told, reason); err != nil {
				return err
			}
		}
		return nil
	})
}

// mostTold bounds the list in a mail; whoever wants all looks at the application.
const mostTold = 12

func tellOfChange(ctx context.Context, tx *db.Tx, office *post.Office, c application.Case, told []string, reason string) error {
	var body strings.Builder
	fmt.Fprintf(&body, "Dear %s,\n\nthe office has changed what is asked in %s while you are writing “%s”. All that you have written is kept. Please look at your application again before you send it: ", c.LeadName, c.RoundName, c.Title)
	body.WriteString("what stands in its way is listed beside it.\n\nThe office\n")
	for i, s := range told {
		if i == mostTold {
			fmt.Fprintf(&body, "- and %d more\n", len(told)-mostTold)
			break
		}
		body.WriteString("- " + s + "\n")
	}
	if reason != "" {
		body.WriteString("\nWhy: " + reason + "\n")
	}
	body.WriteString("\n" + office.Name + "\n")
	_, err := office.Queue(ctx, tx, post.Letter{Kind: "design-changed", Application: c.ID, Round: c.RoundID, Account: c.LeadID, To: c.LeadEmail, ToName: c.LeadName,
		Subject: c.Ref + ": what is asked has changed", Body: body.String()})
	return err
}
