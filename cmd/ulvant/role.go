package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"
	"time"

	"ulvant/core/access"
	"ulvant/internal/platform/db"
	"ulvant/internal/program"
)

// role gives an account a role at the office, or takes it away.
func role(ctx context.Context, args []string) error {
	p, rest, err := open(ctx, args)
	if err != nil {
		return err
	}
	defer p.Close()
	usage := "say: ulvant role [settings] give|take ADDRESS [ROLE [office | programme NAME | round KEY [PLACE]] " +
		"[until DATE]], or ulvant role list\nroles: "
	for i, r := range access.Roles {
		if i > 0 {
			usage += ", "
		}
		usage += string(r)
	}
	if len(rest) == 1 && rest[0] == "list" {
		return listRoles(ctx, p)
	}
	if len(rest) < 2 || rest[0] != "give" && rest[0] != "take" {
		return errors.New(usage)
	}
	held, err := heldFrom(ctx, p, rest[2:])
	if err != nil {
		return fmt.Errorf("%w\n%s", err, usage)
	}
	return p.Do(ctx, db.Job, p.Clock.Now(), func(ctx context.Context, tx *db.Tx) error {
		a, err := p.People.ByEmail(ctx, tx, rest[1])
		if err != nil {
			return fmt.Errorf("nobody has signed up as %s yet; sign up in the browser first", rest[1])
		}
		if rest[0] == "take" {
			return p.People.TakeRole(ctx, tx, a.ID, held.Role, held.Scope)
		}
		return p.People.GiveRole(ctx, tx, a.ID, held)
	})
}

// heldFrom reads a role with its scope and its end; nothing is running rounds,
// at the whole office, until it is taken away.
func heldFrom(ctx context.Context, p *program.Program, words []string) (h access.Held, err error) {
	h.Role = access.RunsRounds
	if len(words) > 0 {
		h.Role, words = access.Role(words[0]), words[1:]
	}
	if !slices.Contains(access.Roles, h.Role) {
		return h, fmt.Errorf("there is no role “%s”", h.Role)
	}
	for len(words) > 0 {
		what := words[0]
		if words = words[1:]; what == "office" {
			continue
		}
		if len(words) == 0 {
			return h, fmt.Errorf("say which %s", what)
		}
		value := words[0]
		words = words[1:]
		switch what {
		case "programme":
			h.Programme = value
		case "round":
			rd, err := p.Rounds.Find(ctx, p.DB, value)
			if err != nil {
				return h, fmt.Errorf("there is no round “%s”", value)
			}
			h.Round = rd.ID
			if len(words) > 0 && words[0] != "until" {
				h.Place, words = words[0], words[1:]
			}
		case "until":
			day, err := time.ParseInLocation("2006-01-02", value, time.Local)
			if err != nil {
				return h, fmt.Errorf("“%s” is not a date such as 2027-03-31", value)
			}
			day = day.AddDate(0, 0, 1) // to the end of the day
			h.Until = &day
		default:
			return h, fmt.Errorf("“%s” is not office, programme, round or until", what)
		}
	}
	return h, nil
}

// listRoles prints who holds what.
func listRoles(ctx context.Context, p *program.Program) error {
	who, err := p.People.Office(ctx, p.Clock.Now())
	if err != nil {
		return err
	}
	for _, a := range who {
		roles, err := p.People.Roles(ctx, p.DB, a.ID)
		if err != nil {
			return err
		}
		for _, h := range roles {
			where := "the whole office"
			switch {
			case h.Round != 0:
				rounds, err := p.Rounds.Some(ctx, []int64{h.Round})
				if err != nil || len(rounds) == 0 {
					return errors.Join(err, errors.New("a role's round is gone"))
				}
				where = strings.TrimSpace("round " + rounds[0].Key + " " + h.Place)
			case h.Programme != "":
				where = "programme " + h.Programme
			}
			if h.Until != nil {
				where += ", until " + h.Until.Format(time.DateTime)
			}
			fmt.Fprintf(os.Stdout, "%s\t%s\t%s\n", a.Email, h.Role, where)
		}
	}
	return nil
}
