package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
)

// programme is one of the Trust's other programmes: its pattern, its dates and
// sums, how its officer designs it, and who is writing already.
type programme struct {
	kind     string
	settings func(now time.Time, zone *time.Location) pattern.Settings
	change   func(*edits, *form.Design)
	people   []writing
}

// writing is somebody who has begun an application.
type writing struct {
	name, body, title string
	answers           string // question = value, a line each; question:column and question:row:column for pieces
}

var programmes = []programme{
	{"scholarship", func(now time.Time, zone *time.Location) pattern.Settings {
		return laid(now, zone, "Wooden Boat Trades Scholarships", "WBT", "", 90_000, 300, 4_000, -12, 24, 34, 55, 70)
	}, boats, boatPeople},
	{"fellowship", func(now time.Time, zone *time.Location) pattern.Settings {
		return laid(now, zone, "Night Ecology Fellowship", "NEF", "", 36_000, 12_000, 36_000, -20, 13, 25, 50, 66)
	}, night, nightPeople},
	{"competition", func(now time.Time, zone *time.Location) pattern.Settings {
		return laid(now, zone, "Footbridge Design Competition", "FDC", "", 12_000, 500, 8_000, -40, 5, 12, 30, 42)
	}, bridge, bridgePeople},
}

// keyOf a round's name.
func keyOf(name string) string {
	k, err := design.NewKey([]byte("{}"), name)
	if err != nil {
		panic(err) // an empty document always parses
	}
	return string(k)
}

// twoStages makes the shore grants a call in two stages, the second by
// invitation: whoever is invited says more, and whoever asks much says most.
func twoStages(e *edits, d *form.Design) {
	closes, _ := d.Moment(form.Closes)
	reading, _ := d.Moment(form.ReadingEnd)
	answer1, _ := d.Moment(form.AnswerOn)
	middle := reading.At.Date.AddDays(int(answer1.At.Date-reading.At.Date) * 2 / 3)
	e.add("calendar", form.Moment{Key: "proposals-in", Label: "the closing of full proposals",
		At: calendar.At(calendar.AddWorkingDays(middle.AddDays(-1), 1, nil), 16, 0)}, "answer-on")
	remindBefore(e, closes, 7, 1)
	e.add("stages", form.Stage{Key: "full-proposal", Label: "Full proposal", Does: form.Apply, From: form.ReadingEnd,
		To: "proposals-in", Invited: true}, "deciding")
	e.set("stages/deciding/from", "proposals-in")
	e.set("sections/declarations/again", []form.Key{"full-proposal"})
	e.add(
		"sections",
		form.Section{Key: "full-plan", Label: "The full plan", Help: "Only for those who are invited on.",
			Stage: "full-proposal", Questions: []form.Question{}},
		"declarations",
	)
	e.ask("budget-section", "public-aid", form.Aid, form.Fact, "Aid from public purses in the last three years", mayNo,
		help("Whoever gave it: the isles, the districts, anybody else. Leave it empty if there was none."),
		func(q *form.Question) {
			q.Aid = &form.AidRule{Years: 3, Ceiling: 12_000_000, Request: "request"}
		})
	e.add("sections", form.Section{Key: "afterwards-asked", Label: "How it was to apply",
		Help: "Four short questions about the form, not about your application.", Stage: form.AfterSending,
		Questions: []form.Question{}})
	e.ask(
		"afterwards-asked",
		"hours-spent",
		form.Number,
		form.Fact,
		"How many hours did it take you, all in all?",
		mayNo,
		office,
		limits(form.Limits{Least: ptr(0), Most: ptr(500)}),
	)
	e.ask("afterwards-asked", "how-clear", form.Choice, form.Fact, "Was it clear what was wanted?", office, mayNo,
		options("clear", "Clear throughout", "mostly", "Mostly", "guess", "I had to guess", "not", "No"))
	e.ask("afterwards-asked", "guessed-where", form.Several, form.Fact, "Where did you have to guess?", office, mayNo,
		onlyIf(test(answer("how-clear"), condition.In, anyOf("mostly", "guess", "not"))),
		options("who", "Who may apply", "money", "The budget", "papers", "The papers", "words", "How much to write"))
	e.ask("afterwards-asked", "one-change", form.Long, form.Fact, "What one thing should we change?", office, mayNo,
		limits(form.Limits{Words: 80}))
	e.ask("full-plan", "programme-of-work", form.Long, form.Chosen, "The work, season by season",
		limits(form.Limits{Words: 1200}))
	e.ask("full-plan", "signs", form.Signer, form.Chosen, "Who will sign the agreement, if it is granted?", office,
		help("One of those who may sign for your organisation, as your profile has it."))
	e.ask("full-plan", "quotes", form.File, form.Fact, "Quotes",
		onlyIf(test(answer("request"), condAtLeast, number(2_000_000))))
	e.ask("full-plan", "was-told", form.Short, form.Chosen, "What did the readers ask you to change?", mayNo,
		limits(form.Limits{Words: 200}),
		onlyIf(test(stageResult("writing"), condIs, text("invited on"))))
}

// Designs are the four programmes as their officer has designed them, laid
// around now: the grants first. A demo opens them through the use cases; tests
// read them without a database.
func Designs(now time.Time, zone *time.Location) ([]*form.Design, error) {
	designs := []*form.Design{Dates(now, zone).Open.Design()}
	changes := []func(*edits, *form.Design){openRound}
	for _, p := range programmes {
		designs, changes = append(designs, pattern.Find(p.kind).Make(p.settings(now, zone))), append(changes, p.change)
	}
	for i, d := range designs {
		var e edits
		changes[i](&e, d)
		out, _, err := design.Apply(encode(d), e.ops)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", d.Name, err)
		}
		designs[i] = new(form.Design)
		if err := json.Unmarshal(out, designs[i]); err != nil {
			return nil, err
		}
	}
	return designs, nil
}

// others makes the other programmes, a while ago, and lets their people write.
func (b *builder) others() {
	for _, p := range programmes {
		s := p.settings(b.now, b.zone)
		made, _ := s.Opens.In(b.zone)
		b.on(made.Add(-5*oneDay), func(ctx context.Context) error {
			_, err := b.programme(ctx, p.kind, s, p.change)
			return err
		})
		for i, w := range p.people {
			b.on(made.Add(time.Duration(30+26*i)*time.Hour), func(ctx context.Context) error {
				return b.begins(ctx,
					string(s.Key), w)
			})
		}
	}
}

// begins plays one application: begun, and written as far as it goes.
func (b *builder) begins(ctx context.Context, roundKey string, w writing) error {
	lead, err := b.person(ctx, email(w.name, w.body), w.name, "")
	if err != nil {
		return err
	}
	return b.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := b.Intake.Start(ctx, tx, roundKey, w.title, nil)
		if err != nil {
			return err
		}
		var saves []intake.Edit
		for _, line := range strings.Split(strings.TrimSpace(w.answers), "\n") {
			name, v, _ := strings.Cut(line, " = ")
			edit := intake.Edit{Place: placeOf(name), EditID: "demo-write", Value: strings.ReplaceAll(v, "|", "\n")}
			if v == "?" {
				edit.Value, edit.Non = "", form.ToFollow
			}
			saves = append(saves, edit)
		}
		results, _, err := b.Intake.Save(ctx, tx, c, saves)
		for _, r := range results {
			if r.Fault != "" {
				panic("demo: " + w.title + ": " + string(r.Question) + " " + string(r.Column) + ": " + r.Fault)
			}
		}
		return err
	})
}

// placeOf reads question, question:column or question:row:column.
func placeOf(name string) form.Place {
	at := strings.SplitN(name, ":", 3)
	p := form.Place{Question: form.Key(at[0])}
	switch len(at) {
	case 2:
		p.Column = form.Key(at[1])
	case 3:
		p.Row, p.Column = at[1], form.Key(at[2])
	}
	return p
}

var boatPeople = []writing{
	{"Juno Blackadder", "leavers", "A year of planking", `
applicant = leaver
names:legal = Juno Marguerite Blackadder
born = 14 May 2009
phone = 01 555 0142
home-district = corvoe
guardian:name = Hester Blackadder
guardian:mail = hester@blackadder.example
home:street = 3 Net Row
home:town = Corvoe
home:postcode = OI4 3QT
postcode = OI4 3QT
schools:r0001:where = Corvoe High School
schools:r0001:what = Leaving certificate
schools:r0001:until = 2026
grade = 3.6
why = My grandfather’s boat has lain in our yard since I was born and I have taken every second plank off it to see how it was done. I would like to put them on again.
course = lofting
course-two = caulking
yards-in-order:place-a = corvoe-yard
yards-in-order:place-b = tarl-slip
skills = planking|spars
own-tools = yes
afloat = yes
swims = yes
costs = 9,400
costs:sure = estimated
means = 3,100
means:sure = estimated
request = 4,000
awards = the-sail-loft-bequest|hardship-fund`},
	{"Tam O’Rourke", "yards", "From engines to spars", `
applicant = yard-hand
names:legal = Thomas O’Rourke
names:working = Tam O’Rourke
born = 2 November 1998
home-district = hallin
postcode = OI1 1AA
yard:mail = office@hallin-shed.example
schools:r0001:where = Hallin shed
schools:r0001:what = Three years at the bench
schools:r0001:until = 2026
course = spars
skills = spars|engines
own-tools = yes
afloat = no
swims = no`},
	{"Brónach Eddis-Nakamura", "home", "Sails for small boats", `
applicant = changer
names:legal = Brónach Eddis-Nakamura
born = 30 January 1987
home-district = sunder-bay
postcode = EC1A 1AA`},
}

var nightPeople = []writing{
	{"Isolde Fairweather", "night", "Bats over the unlit quays", `
names:legal = Isolde Fairweather
orcid = 0000-0002-1825-0097
free-year = yes
work-so-far:r0001:title = Roosts of the Hallin kirks
work-so-far:r0001:year = 2021
work-so-far:r0002:title = A winter of silence
work-so-far:r0002:year = 2013
field = bats
keywords = sound|roosts|new: quays
statement = Four of our quays lost their lamps in the last storm and have not got them back. Bats came within the week. I would like to know which, from where, and what they give up when the lamps return.
licence = 3 June 2025
nights:spring = 30
nights:summer = 60
nights:autumn = 45
nights:winter = 10
released-until = 1 April 2027
released-until:sure = expected
sound-gear = yes
request = 31,500`},
	{"Corentin Le Goff", "moths", "Moths of the peat road", `
names:legal = Corentin Le Goff
free-year = yes
field = moths
keywords = light|pollination
request = 24,000`},
	{"Petra Holm", "owls", "Owls and the machair mice", `
free-year = no
field = owls`},
}

var bridgePeople = []writing{
	{"Annelise Broch", "studio-broch", "Three planks and a promise", `
stream = open-class
members:r0001:legal = Annelise Broch
members:r0002:legal = Finlay Mac an t-Saoir
members:r0002:credit = Finlay Macintyre
tied = no
reach = 01 555 0177
idea = A bridge that is lifted out each October and put back each April by the people who cross it.
cost = 61,000
cost:sure = estimated
span = 40.5
parts-of-it:r0001:item = Larch beams
parts-of-it:r0001:heading = timber
parts-of-it:r0001:each = 41,000
parts-of-it:r0001:from-us = 41,000
parts-of-it:r0002:item = Shoes and pins
parts-of-it:r0002:heading = iron
parts-of-it:r0002:quantity = 200
parts-of-it:r0002:unit = pair
parts-of-it:r0002:each = 100
parts-of-it:r0002:from-us = 20,000
parts-of-it:r0003:item = Oak for the abutments
parts-of-it:r0003:heading = timber
parts-of-it:r0003:quantity = 6
parts-of-it:r0003:unit = baulk
parts-of-it:r0003:gives = oak
parts-of-it:r0003:from-us = 1,080
oak-to:street = The old smithy, Burn Row
oak-to:town = Tarl
oak-to:postcode = OI9 2RT
maintain = Anybody with a spanner and a neighbour.
sheep = In single file.
fees:catalogue = 2
fees:code = ISLES`},
	{"Mattias Quill", "school-of-building", "A rope, a rope, a rope", `
stream = students
members:r0001:legal = Mattias Quill
school = Tarl College
tied = no
idea = Rope made on the isles, from flax grown on the isles.`},
}
