package people

import (
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/colleague"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// personPage is what office/people/person.html draws.
type personPage struct {
	A       people.Account
	Me      bool
	Roles   []heldRole
	Offers  []offered // to the asker
	Aways   []awayRow
	Office  []people.Account
	Zone    *time.Location
	Problem refusal.Refusal
	At      int64 // the role that the problem is about
	Typed   map[string]string
}

type heldRole struct {
	people.RoleRow
	Says, May string
	Gives     bool // the asker may give it and take it away
	Last      string
}

type awayRow struct {
	colleague.Away
	Says       string
	Mine, Asks bool // the asker is away; the asker is asked to stand in
}

// Person says what somebody at the office may do, and why.
func Person(r *site.Request) error {
	return drawPerson(r, fiber.StatusOK, idOf(r, "account"), 0, refusal.Refusal{})
}

func drawPerson(r *site.Request, status int, account, at int64, no refusal.Refusal) error {
	a, err := r.People.Find(r.Context, r.DB, account)
	if err != nil {
		return fiber.ErrNotFound
	}
	d := personPage{A: a, Me: a.ID == r.Account.ID, Zone: r.Profiles.Zone(), Problem: no, At: at, Typed: map[string]string{
		"from": r.FormValue("from"), "to": r.FormValue("to"), "why": r.FormValue("why"), "until": r.FormValue("until")}}
	roles, err := r.People.HeldBy(r.Context, r.DB, a.ID, r.At)
	if err != nil {
		return err
	}
	if len(roles) == 0 && !d.Me {
		return fiber.ErrNotFound // whoever holds no role is nobody of the office’s
	}
	labels := labelsOf{r: r}
	for _, h := range roles {
		said, err := labels.said(h.HeldRole)
		if err != nil {
			return err
		}
		x := heldRole{RoleRow: h, Says: say.Role(said), May: say.MayDo(h.Role, d.Me),
			Gives: access.MayGive(r.Roles, h.Access(), r.At)}
		if h.Until != nil {
			x.Last = calendar.DateOf(h.Until.Add(-time.Second), d.Zone).Words()
		}
		d.Roles = append(d.Roles, x)
	}
	if d.Me {
		offers, err := r.People.Offers(r.Context, r.DB, a.Email)
		if err != nil {
			return err
		}
		for _, o := range offers {
			said, err := labels.said(o.HeldRole)
			if err != nil {
				return err
			}
			d.Offers = append(d.Offers, offered{o, say.Role(said), true})
		}
	}
	aways, err := r.Colleagues.Aways(r.Context, r.DB, a.ID, r.At.In(d.Zone))
	if err != nil {
		return err
	}
	for _, w := range aways {
		says := awayWords(w)
		if w.Account != a.ID {
			says = w.Name + " is " + says
		}
		d.Aways = append(d.Aways, awayRow{w, says, w.Account == r.Account.ID, w.Cover == r.Account.ID && w.AgreedAt == nil})
	}
	if d.Office, err = r.People.Office(r.Context, r.At); err != nil {
		return err
	}
	return r.Draw(status, "office/people/person", view.Page{Title: a.Name, Nav: "people", Data: d})
}

// roleAt is the role that the address names.
func roleAt(r *site.Request) (people.RoleRow, say.HeldRole, error) {
	roles, err := r.People.HeldBy(r.Context, r.DB, idOf(r, "account"), r.At)
	if err != nil {
		return people.RoleRow{}, say.HeldRole{}, err
	}
	for _, h := range roles {
		if h.ID == idOf(r, "role") {
			labels := labelsOf{r: r}
			said, err := labels.said(h.HeldRole)
			return h, said, err
		}
	}
	return people.RoleRow{}, say.HeldRole{}, fiber.ErrNotFound
}

// TakeRole takes a role away, with a reason.
func TakeRole(r *site.Request) error {
	h, said, err := roleAt(r)
	if err != nil {
		return err
	}
	account := idOf(r, "account")
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.People.EndRole(ctx, tx, account, h.HeldRole, said, r.FormValue("why"))
	})
	return onPerson(r, account, h.ID, err, "Taken away; they are told by mail.")
}

// SetUntil sets when a role ends.
func SetUntil(r *site.Request) error {
	h, _, err := roleAt(r)
	if err != nil {
		return err
	}
	account := idOf(r, "account")
	until, err := endOf(r, strings.TrimSpace(r.FormValue("until")))
	if err == nil {
		err = r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.People.UntilWhen(ctx, tx, account, h.HeldRole, until)
		})
	}
	return onPerson(r, account, h.ID, err, "Kept.")
}

// onPerson leads back to the page of somebody; a refusal is said there.
func onPerson(r *site.Request, account, at int64, err error, says string) error {
	var no refusal.Refusal
	if refusal.AsUnfit(err, &no) {
		return drawPerson(r, fiber.StatusUnprocessableEntity, account, at, no)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	if roles, err := r.People.HeldBy(r.Context, r.DB, account, r.At); err == nil && len(roles) == 0 {
		return r.See("/office/people")
	}
	return r.See("/office/people/" + strconv.FormatInt(account, 10))
}

// GoAway says from when to when the asker is away, and asks somebody to stand in.
func GoAway(r *site.Request) error {
	from, okFrom := calendar.ParseDate(strings.TrimSpace(r.FormValue("from")))
	to, okTo := calendar.ParseDate(strings.TrimSpace(r.FormValue("to")))
	cover, _ := strconv.ParseInt(r.FormValue("cover"), 10, 64)
	var err error
	switch {
	case !okFrom:
		err = refusal.In("from", "Write the first day like 4 December 2026.")
	case !okTo:
		err = refusal.In("to", "Write the last day like 11 December 2026.")
	default:
		err = r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.Colleagues.GoAway(ctx, tx, dayOf(from), dayOf(to), cover)
		})
	}
	return onPerson(r, r.Account.ID, 0, err, "Kept. They find it on Today; until they say yes nothing of yours is theirs.")
}

func dayOf(d calendar.Date) time.Time {
	y, m, day := d.Civil()
	return time.Date(y, m, day, 0, 0, 0, 0, time.UTC)
}

// AgreeAway says yes to standing in.
func AgreeAway(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Colleagues.AgreeAway(ctx, tx, idOf(r, "away"))
	})
	return onPerson(r, r.Account.ID, 0, err, "Agreed: on those days their cases are yours too.")
}

// EndAway takes it back, or declines to stand in.
func EndAway(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Colleagues.EndAway(ctx, tx, idOf(r, "away")) })
	return onPerson(r, r.Account.ID, 0, err, "Taken back.")
}

// AnswerOffer says yes or no to a role one is asked to take.
func AnswerOffer(r *site.Request) error {
	o, err := r.People.Offer(r.Context, r.DB, idOf(r, "offer"))
	if err != nil {
		return err
	}
	if o.Email != r.Account.Email {
		return fiber.ErrNotFound
	}
	yes := r.FormValue("answer") == "yes"
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		if !yes {
			return r.People.EndOffer(ctx, tx, o, true)
		}
		_, err := r.People.AcceptOffer(ctx, tx, o, "")
		return err
	})
	if err == nil && !r.Rel.Has(access.AtOffice) { // a donor, or somebody who works nowhere yet
		r.Tell(map[bool]string{true: "The role is yours.", false: "Declined."}[yes])
		return r.See("/applications")
	}
	return onPerson(r, r.Account.ID, 0, err, map[bool]string{true: "The role is yours.", false: "Declined."}[yes])
}

// TakeOffer takes an offer back that nobody has answered.
func TakeOffer(r *site.Request) error {
	o, err := r.People.Offer(r.Context, r.DB, idOf(r, "offer"))
	if err != nil {
		return err
	}
	if !access.MayGive(r.Roles, o.Access(), r.At) {
		return fiber.ErrNotFound
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.People.EndOffer(ctx, tx, o, false)
	}); err != nil {
		return err
	}
	r.Tell("Taken back; the link in the mail works no more.")
	return r.See("/office/people")
}
