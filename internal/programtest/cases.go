package programtest

import (
	"bytes"
	"context"
	_ "embed"
	"slices"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/reference"
)

// Plan is a PDF of two pages, for a slot that wants a plan.
//
//go:embed testdata/plan.pdf
var Plan []byte

// Ready makes an application that lacks nothing but being sent.
func (h *House) Ready(email string) application.Case {
	t := h.T
	name := "Imre Calloway"
	if local, _, _ := strings.Cut(email, "@"); local != "imre" { // somebody else, by another name
		name = strings.ToUpper(local[:1]) + local[1:] + " Hart"
	}
	lead := h.Person(email, name)
	var c application.Case
	var referee int64
	h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		if c, err = h.Intake.Start(ctx, tx, "shore-2027", "Reed beds", nil); err != nil {
			return err
		}
		var edits []intake.Edit
		add := func(p form.Place, v string) {
			edits = append(edits, intake.Edit{Place: p, EditID: "from-test", Value: v})
		}
		for k, v := range map[form.Key]string{"applicant-kind": "common", "body-name": "Common", "district": "corvoe",
			"site": "strand", "land-leave": "yes", "site-access": "road",
			"repair-kind": "shore", "area": "1", "describe": "Reed.", "afterwards": "We do.", "start": "2027-07-01",
			"request": "5000", "paid-elsewhere": "no", "true": "yes", "may-visit": "yes", "signed": name} {
			add(form.Place{Question: k}, v)
		}
		for k, v := range map[form.Key]string{"street": "1 " + email, "town": "Corvoe", "postcode": "OI4"} {
			add(form.Place{Question: "post-address", Column: k}, v)
		}
		for k, v := range map[form.Key]string{form.ColItem: "Reed", form.ColCost: "6000", form.ColUs: "5000",
			form.ColPayer: "own money"} {
			add(form.Place{Question: "budget", Row: "r0001", Column: k}, v)
		}
		if _, _, err = h.Intake.Save(ctx, tx, c, edits); err != nil {
			return err
		}
		if referee, err = h.Referees.Name(ctx, tx, c, "site-referee", reference.Person{Name: "Dacian Rowe",
			Email: "dacian@wardens.example", Knows: "neighbour"}); err != nil {
			return err
		}
		if err = h.Referees.Accept(ctx, tx, referee); err != nil {
			return err
		}
		if err = h.Referees.Keep(ctx, tx, referee, reference.Draft{Version: 3, Text: "Good people."}); err != nil {
			return err
		}
		return h.Referees.Send(ctx, tx, referee)
	})
	f, err := h.Rounds.Form(context.Background(), h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := h.Materials.PutInSlot(context.Background(), db.Account(lead.ID), h.Clock.Now(), c,
		f.Question("site-plan"), "plan.pdf", int64(len(Plan)), bytes.NewReader(Plan)); err != nil {
		t.Fatal(err)
	}
	return c
}

// Draft is an application with nothing written in it.
func (h *House) Draft(email string) (c application.Case) {
	lead := h.Person(email, "Imre Calloway")
	h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		c, err = h.Intake.Start(ctx, tx, "shore-2027", "Reed beds", nil)
		return err
	})
	return c
}

// StateOf is the state of a case, read anew.
func (h *House) StateOf(c application.Case) lifecycle.State {
	c, err := h.Cases.Find(context.Background(), h.DB, c.Ref)
	if err != nil {
		h.T.Fatal(err)
	}
	return c.State
}

// Sent is an application that was sent, checked, and has its receipt.
func (h *House) Sent(email string) application.Case {
	h.T.Helper()
	c := h.Ready(email)
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) (err error) {
		c, err = h.Intake.Send(ctx, tx, c)
		return err
	})
	h.Drain()
	return c
}

// WithSlot adds a slot for files, which may be left empty, to the materials of a design.
func WithSlot(key form.Key, label string, l slot.Limits) func(*form.Design) {
	return func(d *form.Design) {
		q := form.Question{Key: key, Kind: form.File, Label: label, Nature: form.Chosen, Blank: form.MeansNo,
			Seen: form.ToReaders, Limits: form.Cases[form.Limits]{Else: form.Limits{Slot: &l}}}
		for i := range d.Sections {
			if d.Sections[i].Key == "materials" {
				d.Sections[i].Questions = append(d.Sections[i].Questions, q)
			}
		}
	}
}

// FullBudget gives the round’s budget headings, quantities, two years, sources
// and indirect costs.
func FullBudget(d *form.Design) {
	for i := range d.Sections {
		for j := range d.Sections[i].Questions {
			q := &d.Sections[i].Questions[j]
			if q.Keeps() != form.InLines {
				continue
			}
			q.Options = []form.Option{{Key: "people", Label: "People"}, {Key: "plant", Label: "Plant"}}
			q.Costing = &form.Costing{Quantities: true, Sources: []form.Key{"own", "promised", "in-kind"},
				Periods:  []form.Option{{Key: "y1", Label: "1"}, {Key: "y2", Label: "2"}},
				Partners: []form.Option{{Key: "trust", Label: "Trust"}, {Key: "club", Label: "Club"}},
				Indirect: &form.Indirect{Rate: 15_00, Bases: []form.Base{{Heading: "people", PartnerMost: 20_000_00}}}}
		}
	}
}

// WithFee charges €60 for entering, €90 from the evening before closing on; a
// catalogue can be taken, and ONCE lets one off. Half is given back until closing.
func WithFee(d *form.Design) {
	closes, _ := d.Moment(form.Closes)
	d.Calendar = append(d.Calendar, form.Moment{Key: "late-from", Label: "the late fee",
		At: calendar.At(closes.At.Date.AddDays(-1), 16, 0)})
	fixed := func(n int64, later ...form.Rise) form.Cases[form.Price] {
		return form.Cases[form.Price]{Else: form.Price{Amount: n, Later: later}}
	}
	d.Fees = []form.Fee{{Key: "entry", Label: "Entry", What: form.FeeEntry, Price: fixed(6_000,
		form.Rise{From: "late-from", Amount: 9_000})},
		{Key: "catalogue", Label: "Catalogue", What: "thing", Most: 3, Price: fixed(1_800)}}
	d.Codes = []form.FeeCode{{Key: "once", Code: "ONCE", Percent: 100, Uses: 1}}
	d.Payment = &form.Payment{Grace: 60, Second: 2_000, Back: []form.Back{{Until: form.Closes, Percent: 50}},
		Invoice: true, InvoiceDays: 14, Account: "IE29 AIBK 9311 5212 3456 78"}
	last := &d.Sections[len(d.Sections)-1]
	last.Questions = append([]form.Question{{Key: "fees", Kind: form.Fees, Label: "Your fee", Nature: form.Chosen,
		Blank: form.Required, Seen: form.ToOffice}}, last.Questions...)
}

// WithInterviews adds interviews after the reading: two in five of the weight are
// given there, for one criterion.
func WithInterviews(d *form.Design) {
	Short(d)
	at := slices.IndexFunc(d.Stages, func(s form.Stage) bool { return s.Does == form.Read })
	read := d.Stages[at]
	d.Stages = slices.Insert(d.Stages, at+1, form.Stage{Key: "talk", Label: "Interviews", Does: form.Interview,
		From: read.To, To: read.To})
	for i, w := range []int{30, 20, 10} {
		d.Criteria[i].Weight = w
	}
	d.Criteria = append(d.Criteria, form.Criterion{Key: "in-person", Label: "In person", Weight: 40, At: "talk",
		Steps: []string{"not at all", "hardly", "well", "very well"}})
}
