package program

import (
	"bytes"
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/proof"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Open publishes a round's working design and brings its drafts to it, in one
// transaction. Once people may be writing, a change that tightens what is asked
// is told to all who are, and one that takes something away needs a reason
// (round.ErrReason), which they are told with it.
//
// A design whose proof has a finding of the gravest grade does not open
// (Unproved). What could not be decided must be signed for (ErrUnsigned); that
// it was stands in the trail.
func Open(ctx context.Context, p *Program, by db.Actor, at time.Time, roundID int64, reason string, signed bool) error {
	reason = strings.TrimSpace(reason)
	proved, open, err := proven(ctx, p, roundID, signed)
	if err != nil {
		return err
	}
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
			if c.Grade >= design.Tightens && !strings.HasPrefix(c.Op.Path, "calendar/") { // dates are told as they are now
				told = append(told, c.Sentence)
			}
		}
		if r, err := p.Rounds.ByID(ctx, tx, roundID); err != nil {
			return err
		} else if !bytes.Equal(r.Working, proved) {
			return ErrChanged
		}
		var before *form.Form // nil when it opens for the first time
		if r, err := p.Rounds.ByID(ctx, tx, roundID); err != nil {
			return err
		} else if r.DesignID != nil {
			if before, err = p.Rounds.Form(ctx, tx, *r.DesignID); err != nil {
				return err
			}
		}
		published, _, err := p.Rounds.Publish(ctx, tx, roundID)
		if err != nil {
			return err
		}
		now, err := p.Rounds.Form(ctx, tx, published)
		if err != nil {
			return err
		}
		moved := say.Moved(before, now)
		if open > 0 {
			if err := trail.Write(ctx, tx, "signed-for-open", 0, roundID,
				map[string]string{"number": strconv.Itoa(open)}); err != nil {
				return err
			}
		}
		drafts, err := p.Cases.MoveDrafts(ctx, tx, roundID, published)
		if err != nil || len(told) == 0 && len(moved) == 0 {
			return err
		}
		for _, c := range drafts {
			if err := tellOfChange(ctx, tx, p.Post, c, told, moved, reason); err != nil {
				return err
			}
		}
		return nil
	})
}

// Unproved refuses to open a design for what its proof found.
type Unproved struct{ Report *proof.Report }

// Says what must be mended first, a sentence each.
func (e Unproved) Says() (says []string) {
	for _, f := range e.Report.Of(proof.CannotOpen) {
		says = append(says, f.Says)
	}
	return says
}

// Error is all of it.
func (e Unproved) Error() string { return strings.Join(e.Says(), "\n") }

// ErrUnsigned: something could not be decided, and nobody has signed for it.
var ErrUnsigned = refusal.New("some things could not be decided by the proof, or there was no time to look at them").
	But("look at them yourself and say that you have")

// ErrChanged: the design was changed while it was proved.
var ErrChanged = refusal.New("somebody changed the design in this minute").But("look at it again and press once more")

// proven proves a round's working design; open is how much could not be decided.
func proven(ctx context.Context, p *Program, roundID int64, signed bool) (working []byte, open int, err error) {
	r, err := p.Rounds.ByID(ctx, p.DB, roundID)
	if err != nil {
		return nil, 0, err
	}
	f, faults, err := p.Rounds.Working(r)
	if err != nil || len(faults) > 0 {
		return r.Working, 0, err // publishing says what is wrong
	}
	report, err := p.Rounds.Proofs.Of(ctx, f)
	switch {
	case err != nil:
		return nil, 0, err
	case !report.Opens():
		return nil, 0, Unproved{report}
	case report.ToSign() > 0 && !signed:
		return nil, 0, ErrUnsigned
	}
	return r.Working, report.ToSign(), nil
}

// mostTold bounds the list in a mail; whoever wants all looks at the application.
const mostTold = 12

func tellOfChange(ctx context.Context, tx *db.Tx, office *post.Office, c application.Case, told, moved []string,
	reason string) error {
	var body strings.Builder
	subject := "what is asked has changed"
	if len(told) == 0 {
		subject = "its dates have changed"
		fmt.Fprintf(&body, "Dear %s,\n\nthe office has moved dates of %s while you are writing “%s”. All that you have "+
			"written is kept.\n", c.LeadName, c.RoundName, c.Title)
	} else {
		fmt.Fprintf(&body, "Dear %s,\n\nthe office has changed what is asked in %s while you are writing “%s”. All that "+
			"you have written is kept. Please look at your application again before you send it: what stands in its way is listed beside it.\n\nThe office\n", c.LeadName, c.RoundName, c.Title)
	}
	for i, s := range told {
		if i == mostTold {
			fmt.Fprintf(&body, "- and %d more\n", len(told)-mostTold)
			break
		}
		body.WriteString("- " + s + "\n")
	}
	if len(moved) > 0 {
		body.WriteString("\n" + strings.Join(moved, "\n") + "\n")
	}
	if reason != "" {
		body.WriteString("\nWhy: " + reason + "\n")
	}
	body.WriteString("\n" + office.Name() + "\n")
	_, err := office.Queue(ctx, tx, post.Letter{Kind: "design-changed", Application: c.ID, Round: c.RoundID,
		Account: c.LeadID, To: c.LeadEmail, ToName: c.LeadName,
		Subject: c.Ref + ": " + subject, Body: body.String()})
	return err
}
