package demo

import (
	"bytes"
	"context"
	"strconv"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/profile"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/standin/register"
)

// The numbers are made up; their check digits fit (ISO 17442).
const (
	moorNumber  = "0000OSTRELISLES00149"
	winkle      = "0000OSTRELISLES00246"
	struckOff   = "0000OSTRELISLES00343"
	otherNumber = "0000OSTRELISLES00440"
)

// Registered are the bodies that the register stand-in knows.
func Registered() []register.Entry {
	return []register.Entry{
		{Scheme: "lei", Number: moorNumber, Name: "Tarl Moor Society"},
		{Scheme: "lei", Number: winkle, Name: "Port of Corvoe Users’ Association"},
		{Scheme: "lei", Number: struckOff, Name: "Hallin Peat Company", Struck: true},
		{Scheme: "lei", Number: otherNumber, Name: "The Ness Commoners"},
		{Scheme: "lei", Number: ferryNumber, Name: graziers, Struck: true},
	}
}

// bodies plays two organisations: one that is known, one that waits to be
// looked over.
func (b *builder) bodies() {
	b.take("Dervla Quayle", "Tarl Moor Society", "Tarl Moor Society", moorNumber, "3 Peat Lane",
		[]profile.Contact{{Name: "Dervla Quayle", Email: email("Dervla Quayle", "Tarl Moor Society"),
			Gets: []profile.Notice{profile.Reminders}}, {Name: "Ronan Teague", Email: "office@tarl-moor-society.example",
			Gets: []profile.Notice{profile.Decisions}}},
		[][2]string{{"Ronan Teague", "chair"}, {"Ailith Corrow", "treasurer"}}, 120, true)
	b.take("Delphine Aske", "Corvoe Port Users", "Port of Corvoe Users’ Association", winkle, "The Old Net Loft",
		[]profile.Contact{{Name: "Delphine Aske", Email: email("Delphine Aske", "Corvoe Port Users")},
			{Name: "Piran Lode", Email: "piran@corvoe-port-users.example"}},
		[][2]string{{"Piran Lode", "harbour master"}, {"Senara Wells", "treasurer"}}, 4, false)
	b.sponsored()
	const kept = "A grant pays for what the agreement says, and for nothing else; what is left over comes back.\n" +
		"Whoever holds the money keeps the bills for seven years and shows them when we ask.\n"
	for days, text := range map[int]string{300: kept +
		"Say in public that the Trust has paid for it, where people can see it.",
		20: kept + "Say on the spot, in a few words, that the Trust has paid for it; no plaque is needed.\n" +
			"Nobody who decides for you is paid from the grant, unless the agreement names them."} {
		b.on(b.back(days), func(ctx context.Context) error {
			return b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
				return b.Profiles.ChangeTerms(ctx, tx, text)
			})
		})
	}
}

// back is a quarter past ten, working days ago.
func (b *builder) back(days int) time.Time {
	t, _ := calendar.At(calendar.AddWorkingDays(calendar.DateOf(b.now, b.zone), -days, nil), 10, 15).In(b.zone)
	return t
}

// take plays an organisation that registers, working days ago, and of which the
// office has looked over a known one.
func (b *builder) take(lead, body, name, number, seat string, contacts []profile.Contact, officers [][2]string,
	began int, known bool) {
	var id int64
	var who people.Account
	b.on(b.back(began), func(ctx context.Context) (err error) {
		if who, err = b.person(ctx, email(lead, body), lead, ""); err != nil {
			return err
		}
		return b.act(ctx, who.ID, func(ctx context.Context, tx *db.Tx) (err error) {
			if id, err = b.Profiles.Make(ctx, tx, profile.Body, name); err != nil {
				return err
			}
			b.applies[name] = id
			facts := profile.Facts{Form: profile.Society, Numbers: []profile.Number{{Scheme: "lei", Value: number}},
				Seat: profile.Address{Street: seat, Town: "Corvoe",
					Postcode: "OI4 2RT"}, Phone: "+353 1 555 0142", Contacts: contacts}
			if err := b.Profiles.Change(ctx, tx, id, name, facts); err != nil {
				return err
			}
			for _, o := range officers {
				if err := b.Profiles.AskOfficer(ctx, tx, id, o[0], email(o[0], "officers"), o[1]); err != nil {
					return err
				}
			}
			return nil
		})
	})
	b.on(b.back(began-1), func(ctx context.Context) error {
		for key, title := range map[string]string{"statutes": "Statutes", "extract": "Extract of the register of societies"} {
			until := calendar.Date(0)
			if key == "extract" {
				until = calendar.DateOf(b.now, b.zone).AddDays(80)
			}
			pdf, err := sitePlan(title, name, 1)
			if err != nil {
				return err
			}
			if _, err := b.Materials.Shelve(ctx, db.Account(who.ID), b.at, id, key, key+".pdf", until, int64(len(pdf)),
				bytes.NewReader(pdf)); err != nil {
				return err
			}
		}
		list, err := b.Profiles.Officers(ctx, b.DB, id)
		if err != nil {
			return err
		}
		for _, o := range list {
			if err := b.Do(ctx, db.Actor{Kind: "link", ID: o.ID}, b.at,
				func(ctx context.Context, tx *db.Tx) error { return b.Profiles.Confirm(ctx, tx, o.ID, true) }); err != nil {
				return err
			}
		}
		err = b.act(ctx, who.ID, func(ctx context.Context, tx *db.Tx) error { return b.Profiles.SendIn(ctx, tx, id) })
		if err != nil || !known {
			return err
		}
		return b.act(ctx, b.officer.ID, func(ctx context.Context,
			tx *db.Tx) error {
			return b.Profiles.Decide(ctx, tx, id, true, "")
		})
	})
}

// sponsored plays somebody whose money a known body holds, and somebody whose
// request it has not answered yet.
func (b *builder) sponsored() {
	for i, lead := range []string{"Ferdia Blount", "Una Gallowglass"} {
		b.on(b.back(60-55*i), func(ctx context.Context) error {
			who, err := b.person(ctx, email(lead, "Mew Sound Beachcombers"), lead, "")
			if err != nil {
				return err
			}
			var id int64
			if err := b.act(ctx, who.ID, func(ctx context.Context, tx *db.Tx) (err error) {
				if id, err = b.Profiles.Make(ctx, tx, profile.Person, lead); err != nil {
					return err
				}
				facts := profile.Facts{Seat: profile.Address{Street: strconv.Itoa(7+i) + " Shingle Row", Town: "Sunder Bay",
					Postcode: "OI6 1MS"}, Phone: "+353 1 555 0188"}
				if err := b.Profiles.Change(ctx, tx, id, lead, facts); err != nil {
					return err
				}
				return b.Profiles.AskSponsor(ctx, tx, id, "lei", moorNumber)
			}); err != nil || i > 0 {
				return err
			}
			list, err := b.Profiles.Sponsors(ctx, b.DB, id)
			if err != nil {
				return err
			}
			return b.Do(ctx, db.Actor{Kind: "link", ID: list[0].ID}, b.at,
				func(ctx context.Context, tx *db.Tx) error { return b.Profiles.AnswerSponsor(ctx, tx, list[0].ID, true) })
		})
	}
}

// Lost are domains that there are not, to which people of the demo address mails.
var Lost = []string{"tral.example"}
