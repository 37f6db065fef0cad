package people

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/colleague"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// colleaguesPage is what office/people/colleagues.html draws.
type colleaguesPage struct {
	People  []colleagueRow
	Donors  []colleagueRow
	Offers  []offered
	Give    giveForm
	Gives   bool // the asker may give roles
	Problem refusal.Refusal
	Zone    *time.Location
	Step    string // "part" when a part of the round is still to be chosen
}

type colleagueRow struct {
	people.Account
	Roles []string
	Away  string
}

type offered struct {
	people.Offer
	Says string
	Mine bool // it is to the asker
}

// giveForm is what is typed to give a role, and what there is to choose from.
type giveForm struct {
	Email, Name, Role, Where, Part, Until string
	Roles                                 []roleChoice
	Programmes                            []string
	Rounds                                []round.Round
	Parts                                 []partGroup
}

type roleChoice struct {
	access.Role
	Means string
}

type partGroup struct {
	Label string
	Parts []form.Option
}

// mostRounds that a role can be given for at once to choose from.
const mostRounds = 60

// Colleagues lists who works at the office.
func Colleagues(r *site.Request) error {
	return drawColleagues(r, fiber.StatusOK, giveForm{}, "", refusal.Refusal{})
}

func drawColleagues(r *site.Request, status int, g giveForm, step string, no refusal.Refusal) error {
	d := colleaguesPage{Give: g, Problem: no, Step: step, Gives: r.May(access.GiveRoles),
		Zone: r.Profiles.Zone()}
	list, err := r.People.Office(r.Context, r.At)
	if err != nil {
		return err
	}
	donors, err := r.People.Donors(r.Context, r.At)
	if err != nil {
		return err
	}
	labels := labelsOf{r: r}
	for i, a := range append(list, donors...) {
		roles, err := r.People.HeldBy(r.Context, r.DB, a.ID, r.At)
		if err != nil {
			return err
		}
		row := colleagueRow{Account: a}
		for _, h := range roles {
			if (h.Role == access.Gives) != (i >= len(list)) {
				continue
			}
			said, err := labels.said(h.HeldRole)
			if err != nil {
				return err
			}
			row.Roles = append(row.Roles, say.Role(said))
		}
		if i >= len(list) {
			d.Donors = append(d.Donors, row)
			continue
		}
		aways, err := r.Colleagues.Aways(r.Context, r.DB, a.ID, r.At.In(r.Profiles.Zone()))
		if err != nil {
			return err
		}
		for _, w := range aways {
			if w.Account == a.ID {
				row.Away = awayWords(w)
			}
		}
		d.People = append(d.People, row)
	}
	offers, err := r.People.Offers(r.Context, r.DB, "")
	if err != nil {
		return err
	}
	for _, o := range offers {
		said, err := labels.said(o.HeldRole)
		if err != nil {
			return err
		}
		d.Offers = append(d.Offers, offered{o, say.Role(said), o.Email == r.Account.Email})
	}
	if err := d.Give.choices(r); err != nil {
		return err
	}
	return r.Draw(status, "office/people/colleagues", view.Page{Title: "Who works at the office", Nav: "people", Data: d})
}

// choices are what a role can be given for: what the asker runs.
func (g *giveForm) choices(r *site.Request) error {
	for _, role := range access.Roles {
		g.Roles = append(g.Roles, roleChoice{role, say.RoleMeans(role)})
	}
	seen, err := r.Rounds.Seen(r.Context, r.Sight())
	if err != nil {
		return err
	}
	rounds, err := r.Rounds.Page(r.Context, seen.Rounds, 0, mostRounds)
	if err != nil {
		return err
	}
	for _, rd := range rounds {
		if !access.MayGive(r.Roles, access.Held{Scope: access.Scope{Programme: rd.Programme, Round: rd.ID}}, r.At) {
			continue
		}
		g.Rounds = append(g.Rounds, rd)
		if !slices.Contains(g.Programmes, rd.Programme) &&
			access.MayGive(r.Roles, access.Held{Scope: access.Scope{Programme: rd.Programme}}, r.At) {
			g.Programmes = append(g.Programmes, rd.Programme)
		}
	}
	return nil
}

// scope is where a role is to hold; more is set when a part of the round is still
// to be chosen.
func (g *giveForm) scope(r *site.Request) (s access.Scope, said say.HeldRole, more bool, err error) {
	role := access.Role(g.Role)
	kind, value, _ := strings.Cut(g.Where, ":")
	said = say.HeldRole{Role: role, Zone: r.Profiles.Zone()}
	needs := role == access.Reviews || role == access.Gives
	switch kind {
	case "programme":
		known, err := r.Rounds.Programme(r.Context, value)
		if err != nil {
			return s, said, false, err
		}
		if !known {
			return s, said, false, refusal.In("where", "Choose where the role holds.")
		}
		s.Programme, said.Programme = value, value
	case "round":
		rd, err := r.Rounds.Find(r.Context, r.DB, value)
		if err != nil {
			return s, said, false, refusal.In("where", "Choose where the role holds.")
		}
		s.Programme, s.Round, said.Round = rd.Programme, rd.ID, rd.Name
		if g.Parts, err = partsOf(r, rd, role); err != nil {
			return s, said, false, err
		}
		what, part, _ := strings.Cut(g.Part, ":")
		switch {
		case g.Part == "" && len(g.Parts) > 0, g.Part != "" && !hasPart(g.Parts, g.Part):
			return s, said, true, nil
		case what == "place":
			s.Place, said.Place = part, part
		case what == "body":
			s.Body, said.Body = part, labelIn(g.Parts, g.Part)
		case what == "award":
			s.Award, said.Award = part, labelIn(g.Parts, g.Part)
		}
	case "office":
	default:
		return s, said, false, refusal.In("where", "Choose where the role holds.")
	}
	if needs && s.Body == "" && s.Award == "" {
		return s, said, false, refusal.In("where", map[access.Role]string{
			access.Reviews: "A second body is one of a round’s: choose a round that has one.",
			access.Gives:   "A donor gives an award of a round: choose a round that has awards."}[role])
	}
	return s, said, false, nil
}

// hasPart reports a part that was offered.
func hasPart(groups []partGroup, key string) bool {
	return slices.ContainsFunc(groups, func(g partGroup) bool {
		return slices.ContainsFunc(g.Parts, func(p form.Option) bool { return string(p.Key) == key })
	})
}

func labelIn(groups []partGroup, key string) string {
	for _, g := range groups {
		for _, p := range g.Parts {
			if string(p.Key) == key {
				return p.Label
			}
		}
	}
	return key
}

// partsOf are the parts of a round that a role can be kept to.
func partsOf(r *site.Request, rd round.Round, role access.Role) (out []partGroup, err error) {
	f, err := r.Rounds.Published(r.Context, r.DB, rd)
	if err != nil {
		return nil, err
	}
	group := func(label, kind string, options []form.Option) {
		g := partGroup{Label: label}
		for _, o := range options {
			g.Parts = append(g.Parts, form.Option{Key: form.Key(kind + ":" + string(o.Key)), Label: o.Label})
		}
		if g.Parts != nil {
			out = append(out, g)
		}
	}
	var options []form.Option
	switch role {
	case access.Reviews:
		for _, b := range f.Design.Bodies {
			options = append(options, form.Option{Key: b.Key, Label: b.Label})
		}
		group("Body", "body", options)
	case access.Gives:
		for _, a := range f.Design.Awards {
			options = append(options, form.Option{Key: a.Key, Label: a.Label})
		}
		group("Award", "award", options)
	default:
		if q := f.Question(f.Design.Listed.Question); q != nil {
			for _, o := range f.Options(q) {
				options = append(options, form.Option{Key: form.Key(o.Label), Label: o.Label})
			}
		}
		if options != nil {
			out = append(out, partGroup{Parts: []form.Option{{Key: "whole:", Label: "all of the round"}}})
		}
		group(f.Design.Listed.Heading, "place", options)
	}
	return out, nil
}

// GiveRole asks somebody to take a role.
func GiveRole(r *site.Request) error {
	g := giveForm{Email: strings.TrimSpace(r.FormValue("email")), Name: strings.TrimSpace(r.FormValue("name")),
		Role: r.FormValue("role"), Where: r.FormValue("where"), Part: r.FormValue("part"),
		Until: strings.TrimSpace(r.FormValue("until"))}
	var no refusal.Refusal
	if !slices.Contains(access.Roles, access.Role(g.Role)) {
		no = refusal.Refusal{Kind: refusal.KindUnfit, Field: "role", Says: "Choose the role."}
		return drawColleagues(r, fiber.StatusUnprocessableEntity, g, "", no)
	}
	scope, said, more, err := g.scope(r)
	if refusal.AsUnfit(err, &no) {
		return drawColleagues(r, fiber.StatusUnprocessableEntity, g, "", no)
	}
	if err != nil {
		return err
	}
	if more {
		return drawColleagues(r, fiber.StatusOK, g, "part", no)
	}
	until, err := endOf(r, g.Until)
	if err == nil {
		said.Until = until
		err = r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.People.OfferRole(ctx, tx, g.Email, g.Name, access.Held{Role: access.Role(g.Role), Scope: scope,
				Until: until}, said, r.Config.LinkLife)
		})
	}
	if refusal.AsUnfit(err, &no) {
		step := ""
		if g.Parts != nil {
			step = "part"
		}
		return drawColleagues(r, fiber.StatusUnprocessableEntity, g, step, no)
	}
	if err != nil {
		return err
	}
	r.Tell("A mail is on its way to " + g.Email + ". The role holds when they say yes.")
	return r.See("/office/people")
}

// endOf reads the last day of a role; it ends when that day does. "" is no end.
func endOf(r *site.Request, typed string) (*time.Time, error) {
	if typed == "" {
		return nil, nil
	}
	d, ok := calendar.ParseDate(typed)
	if !ok {
		return nil, refusal.In("until", "Write the last day like 4 December 2026.")
	}
	at, _ := calendar.At(d.AddDays(1), 0, 0).In(r.Profiles.Zone())
	return &at, nil
}

// labelsOf finds the names of what roles hold for, each round read once.
type labelsOf struct {
	r     *site.Request
	forms map[int64]*form.Form
}

func (l *labelsOf) said(h people.HeldRole) (say.HeldRole, error) {
	out := say.HeldRole{Role: h.Role, Programme: h.Programme, Round: h.RoundName, Place: h.Place, Until: h.Until,
		Zone: l.r.Profiles.Zone()}
	if h.Body == "" && h.Award == "" {
		return out, nil
	}
	if l.forms == nil {
		l.forms = map[int64]*form.Form{}
	}
	f := l.forms[h.Round]
	if f == nil {
		rd, err := l.r.Rounds.ByID(l.r.Context, l.r.DB, h.Round)
		if err != nil {
			return out, err
		}
		if f, err = l.r.Rounds.Published(l.r.Context, l.r.DB, rd); err != nil {
			return out, err
		}
		l.forms[h.Round] = f
	}
	out.Body, out.Award = f.Design.BodyLabel(h.Body), f.Design.AwardLabel(h.Award)
	return out, nil
}

func awayWords(w colleague.Away) string {
	says := "away from " + w.From.Format("2 January") + " to " + w.To.Format("2 January 2006") + "; "
	if w.AgreedAt != nil {
		return says + w.CoverBy + " stands in"
	}
	return says + w.CoverBy + " was asked to stand in and has not said yes"
}

// idOf is a number of the address; 0 when it is none.
func idOf(r *site.Request, name string) int64 {
	n, _ := strconv.ParseInt(r.Params(name), 10, 64)
	return n
}
