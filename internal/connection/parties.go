package connection

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/lib/pq"

	"ulvant/core/connected"
	"ulvant/core/form"
	"ulvant/core/hiding"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/profile"
)

// partiesOf lists whom a case names.
func (s *Store) partiesOf(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, filled *form.Filled,
	path *form.Path) (out []party, err error) {
	add := func(part connected.Part, place string, account *int64, p connected.Party) {
		if strings.TrimSpace(p.Name) == "" && p.Mails == nil && p.Phones == nil && p.Numbers == nil {
			return
		}
		out = append(out, party{CaseID: &c.ID, LeadID: &c.LeadID, AccountID: account, Part: part, Place: place, Name: p.Name,
			Body: p.Body, Mails: p.Mails, Phones: p.Phones, Addresses: p.Addresses, Numbers: p.Numbers, Mark: markOf(p)})
	}
	own, named := f.NamedIn(filled, path)
	lead := connected.Party{Name: c.LeadName, Mails: append([]string{c.LeadEmail}, own.Mails...)}
	switch p, err := s.Profiles.For(ctx, tx, c.ID); {
	case errors.Is(err, profile.ErrNotFound):
		lead.Phones, lead.Addresses, lead.Numbers = own.Phones, own.Addresses, own.Numbers
	case err != nil:
		return nil, err
	default:
		of := profileParty(p)
		of.Phones, of.Addresses, of.Numbers = append(of.Phones, own.Phones...), append(of.Addresses, own.Addresses...),
			append(of.Numbers, own.Numbers...)
		if of.Body {
			add(connected.Applicant, "body", nil, of)
		} else {
			lead.Phones, lead.Addresses, lead.Numbers = of.Phones, of.Addresses, of.Numbers
		}
		if p.Sponsor != "" {
			add(connected.Sponsor, "sponsor", nil, connected.Party{Name: p.Sponsor, Body: true})
		}
	}
	add(connected.Applicant, "lead", &c.LeadID, lead)
	var mates []struct {
		ID          int64
		Name, Email string
	}
	if err := tx.SelectContext(ctx, &mates, `
		SELECT p.id, p.name, p.email FROM relation l JOIN account p ON p.id = l.account_id
		WHERE l.application_id = $1 AND l.kind <> 'lead' ORDER BY p.id`, c.ID); err != nil {
		return nil, err
	}
	for _, m := range mates {
		add(connected.Teammate, "account "+m.Email, &m.ID, connected.Party{Name: m.Name, Mails: []string{m.Email}})
	}
	var asked []struct {
		ID                    int64
		Question, Name, Email string
	}
	if err := tx.SelectContext(ctx, &asked, `
		SELECT id, question, name, email FROM referee WHERE application_id = $1 AND state <> $2 ORDER BY id`, c.ID, form.Replaced); err != nil {
		return nil, err
	}
	for _, r := range asked {
		part := connected.Referee
		if q := f.Question(form.Key(r.Question)); q != nil && q.Confirms() {
			part = connected.Signatory
		}
		p := connected.Party{Name: r.Name}
		if r.Email != "" {
			p.Mails = []string{r.Email}
		}
		add(part, r.Question+"/"+cmp.Or(strings.ToLower(r.Email), r.Name), nil, p)
	}
	for _, x := range named {
		part := connected.Director
		if x.Paid {
			part = connected.Supplier
		}
		add(part, x.Place, nil, connected.Party{Name: x.Name, Body: x.Body, Mails: x.Mails, Phones: x.Phones,
			Addresses: x.Addresses, Numbers: x.Numbers})
	}
	return slices.CompactFunc(sorted(out), func(a, b party) bool { return a.Place == b.Place }), nil
}

func sorted(list []party) []party {
	slices.SortStableFunc(list, func(a, b party) int { return cmp.Compare(a.Place, b.Place) })
	return list
}

// profileParty is a person or body as its profile has it.
func profileParty(p profile.Profile) connected.Party {
	out := connected.Party{Name: p.Name, Body: p.Kind != "person"}
	for _, n := range p.Facts.Numbers {
		out.Numbers = append(out.Numbers, n.Value)
	}
	if p.Facts.Phone != "" {
		out.Phones = []string{p.Facts.Phone}
	}
	if seat := p.Facts.Seat; seat.Street != "" {
		out.Addresses = []string{seat.Street + ", " + seat.Town + " " + seat.Postcode}
	}
	for _, c := range p.Facts.Contacts {
		out.Mails = append(out.Mails, c.Email)
	}
	return out
}

// putParties keeps the parties of a case in place of those it had; one that stands
// where it stood keeps its number.
func (s *Store) putParties(ctx context.Context, tx *db.Tx, application int64, list []party) (ids []int64, err error) {
	var places []string
	for _, p := range list {
		places = append(places, p.Place)
		var id int64
		if err := tx.QueryRowxContext(ctx, `
			INSERT INTO party (application_id, lead_id, account_id, part, place, name, body, mails, phones, addresses, numbers, mark)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)
			ON CONFLICT (application_id, place) WHERE application_id IS NOT NULL DO UPDATE SET lead_id = EXCLUDED.lead_id, account_id = EXCLUDED.account_id,
			  part = EXCLUDED.part, name = EXCLUDED.name, body = EXCLUDED.body, mails = EXCLUDED.mails, phones = EXCLUDED.phones,
			  addresses = EXCLUDED.addresses, numbers = EXCLUDED.numbers, mark = EXCLUDED.mark
			RETURNING id`, p.CaseID, p.LeadID, p.AccountID, p.Part, p.Place, p.Name, p.Body, arr(p.Mails), arr(p.Phones), arr(p.Addresses),
			arr(p.Numbers), p.Mark).Scan(&id); err != nil {
			return nil, err
		}
		ids = append(ids, id)
	}
	_, err = tx.ExecContext(ctx, `DELETE FROM party WHERE application_id = $1 AND NOT place = ANY($2)`, application,
		pq.Array(places))
	return ids, err
}

// arr never is NULL.
func arr(a pq.StringArray) pq.StringArray {
	if a == nil {
		return pq.StringArray{}
	}
	return a
}

// Behind are the people and bodies behind a case: whoever applies, writes, vouches,
// signs or is named in it; not whoever is to be paid.
func (s *Store) Behind(ctx context.Context, q db.Querier, application int64) ([]hiding.Person, error) {
	all, err := s.BehindAll(ctx, q, []int64{application})
	return all[application], err
}

// Hidden are the names to be hidden from those who judge a case, as its parties, its lead
// applicant, the answers of its document and its letters have them.
func (s *Store) Hidden(ctx context.Context, q db.Querier, c application.Case, f *form.Form, d *seal.Document) (
	hiding.Names, error) {
	people, err := s.Behind(ctx, q, c.ID)
	if err != nil {
		return hiding.Names{}, err
	}
	people = append(people, hiding.Person{Name: c.LeadName})
	for _, x := range f.Identities(d.Filled(c.LeadName)) {
		people = append(people, hiding.Person{Name: x.Name, Body: x.Body})
	}
	for _, l := range d.Letters {
		people = append(people, hiding.Person{Name: l.Name})
	}
	return hiding.Of(people), nil
}

// BehindAll are those behind each of some cases.
func (s *Store) BehindAll(ctx context.Context, q db.Querier, applications []int64) (map[int64][]hiding.Person, error) {
	var rows []struct {
		Application int64 `db:"application_id"`
		Name        string
		Body        bool
		Phones      pq.StringArray
	}
	err := q.SelectContext(ctx, &rows, `
		SELECT application_id, name, body, phones FROM party WHERE application_id = ANY($1) AND part <> $2 ORDER BY id`, applications, connected.Supplier)
	out := map[int64][]hiding.Person{}
	for _, r := range rows {
		out[r.Application] = append(out[r.Application], hiding.Person{Name: r.Name, Body: r.Body, Phones: r.Phones})
	}
	return out, err
}
