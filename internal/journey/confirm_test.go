package journey_test

import (
	"context"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
	"ulvant/internal/web/webtest"
)

// A guardian, a partner and a co-signer each read on a phone what they are asked, in
// words of their own, and confirm it; one of two partners is enough.
func TestAGuardianAPartnerAndACoSigner(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	asks := []struct {
		key   form.Key
		who   string
		wants string
		after string
		names []string
	}{
		{
			"guardian",
			"a parent or guardian",
			"She may spend a summer at the yard.",
			"You hear from us if she is ill.",
			[]string{"Hester"},
		},
		{
			"partner",
			"a partner in the work",
			"We lend the boat and a crew.",
			"You get a copy of the agreement.",
			[]string{"Piran", "Senara"},
		},
		{
			"co-signer",
			"somebody who signs with the applicant",
			"We answer for the money together.",
			"You sign the agreement too.",
			[]string{"Ronan"},
		},
	}
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		d.Rules, d.Figures, d.Request, d.Listed = nil, nil, "", form.Listing{}
		d.Field = ""
		var questions []form.Question
		for _, a := range asks {
			q := form.Question{Key: a.key, Kind: form.Signatory, Label: "Confirmed by " + a.who, Nature: form.Chosen,
				Blank: form.Required, Seen: form.ToReaders, Ask: &form.Ask{Who: a.who, Wants: a.wants, After: a.after, Enough: 1}}
			q.Limits = form.Cases[form.Limits]{Else: form.Limits{Referees: len(a.names)}}
			questions = append(questions, q)
		}
		d.Sections = []form.Section{{Key: "all", Label: "All of it", Questions: questions}}
	})
	c := h.Draft("imre@corvoe.example")
	for _, a := range asks {
		for _, n := range a.names {
			h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
				_, err := h.Referees.Name(
					ctx,
					tx,
					c,
					a.key,
					reference.Person{Name: n, Email: n + "@tarl.example", Knows: "for years"},
				)
				return err
			})
		}
	}
	for _, a := range asks {
		p := webtest.In(t, webtest.Window(t, base))
		p.Ok(p.Size(390, 844))
		p.Goes(webtest.Link(t, h, a.names[0]+"@tarl.example"))
		p.Reads(a.wants)
		p.Reads(a.after)
		clean(t, p, string(a.key))
		p.Presses(`button[value=yes]`)
		p.Reads("Thank you, " + a.names[0])
	}
	imre := webtest.In(t, webtest.Window(t, base))
	imre.SignsIn("imre@corvoe.example")
	imre.Goes("/applications/" + c.Ref + "/send")
	imre.Reads("Send it")
	imre.Waits(`!document.querySelector('.lefts li')`)
}
