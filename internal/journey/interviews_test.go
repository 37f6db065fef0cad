package journey_test

import (
	"context"
	"strconv"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A chair lays a day out and invites three; one in Tokyo chooses a time on their own
// clock, on a phone; one cannot come and is moved; one is given a time and does not
// come. Whoever is of the panel marks on a phone, and the order goes by both. Nothing
// that axe-core looks for is wrong on the way.
func TestAChairMeetsPeople(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, programtest.WithInterviews, map[string]string{"Ann": "9,000", "Bo": "8,000",
		"Cy": "7,000"})
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk")
	p.Person("oriel@readers.example", "Oriel Vane")
	chair := p.Person("lucian@panel.example", "Lucian Abernathy")
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.People.GiveRole(ctx, tx, chair.ID, access.Held{Role: access.Chairs, Scope: access.Scope{Round: p.Round.ID}})
	})
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	for name := range p.Of {
		for _, a := range readers {
			p.MarksWhole(name, a)
		}
	}
	_, base := webtest.Serve(t, p.House)
	b := webtest.Browser(t)
	w := webtest.In(t, webtest.Another(t, b, base))
	w.SignsIn("lucian@panel.example")
	desk := "/office/rounds/" + p.Round.Key + "/interviews"
	w.Goes(desk)
	w.Reads("No day is laid out yet")
	w.Presses("button[value='day']")
	w.Reads("Give the day")
	day := p.Clock.Now().In(p.Form.Zone).AddDate(0, 0, 6)
	for name, v := range map[string]string{"panel": "Panel one", "date": day.Format(time.DateOnly), "until": "11:00",
		"place": "The Customs House"} {
		w.Fills("[name="+name+"]", v)
	}
	w.Presses("[name=member][value='" + strconv.FormatInt(readers[0], 10) + "']")
	w.Presses("button[value='day']")
	w.Reads("3 times are there")
	w.Fills("[name=first]", "3")
	w.Presses("button[value='invite']")
	w.Reads("3 people are invited")
	w.Sound()

	ann := webtest.In(t, webtest.Another(t, b, base))
	ann.Ok(ann.Size(390, 844))
	ann.SignsIn("ann@corvoe.example")
	ann.Goes("/applications/" + p.Of["Ann"].Ref)
	ann.Reads("You are invited to an interview")
	ann.Presses("a[href*='/interview']")
	ann.Reads("Choose a time by")
	ann.Waits(`(() => { document.querySelector('[name=zone]').value = 'Asia/Tokyo'; return true })()`)
	ann.Presses("button[value='zone']")
	ann.Reads("as clocks show them in Asia/Tokyo")
	ann.Sound()
	ann.Presses(".timesof button")
	ann.Reads("in Tokyo (09:00 in Dublin)")
	ann.Reads("You come.")
	ann.Sound()

	bo := webtest.In(t, webtest.Another(t, b, base))
	bo.SignsIn("bo@corvoe.example")
	bo.Goes("/applications/" + p.Of["Bo"].Ref + "/interview")
	bo.Presses(".timesof button")
	bo.Reads("You come.")
	bo.Presses("details summary")
	bo.Fills("[name=why]", "The ferry comes at ten.")
	bo.Presses("button[value='cannot']")
	bo.Reads("You cannot come.")
	w.Goes(desk)
	w.Reads("The ferry comes at ten.")
	w.Presses("tbody a[href*='" + p.Of["Bo"].Ref + "']")
	w.Reads("Another time")
	w.Sound()
	w.Fills("form:has([name=slot]) [name=why]", "you cannot come at the first")
	w.Presses("button[value='move']")
	w.Reads("is invited to the new time")

	// the time to choose is over: Cy is given the one that is left, and is not there
	p.Clock.Set(p.Clock.Now().Add(5*24*time.Hour + 10*time.Hour))
	if err := p.Interviews.Sweep(t.Context(), p.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	p.Clock.Set(time.Date(day.Year(), day.Month(), day.Day(), 12, 0, 0, 0, p.Form.Zone))
	p.Drain()
	oriel := webtest.In(t, webtest.Another(t, b, base))
	oriel.Ok(oriel.Size(390, 844))
	oriel.SignsIn("oriel@readers.example")
	oriel.Goes("/reading")
	oriel.Reads("People you meet")
	oriel.Presses("a[href^='/reading/interviews/']")
	oriel.Reads("Panel one")
	oriel.Sound()
	for _, name := range []string{"Ann", "Bo"} {
		oriel.Goes("/reading/" + p.Of[name].Ref + "/interview")
		oriel.Reads("In person")
		oriel.Sound()
		oriel.Ok(oriel.Size(390, 844))
		oriel.Presses("label:has([name='mark:in-person'][value='3'])")
		oriel.Fills("[name=note]", "Knows the reeds.")
		oriel.Presses("button[value='send']")
		oriel.Reads("are sent")
	}
	if s := p.StateOf("Ann"); s != lifecycle.Read {
		t.Errorf("Ann is %s", s)
	}
	w.SignsIn("lucian@panel.example") // a week is long
	w.Goes("/office/applications/" + p.Of["Cy"].Ref + "/interview")
	w.Presses("[name=then][value='without']")
	w.Presses("button[value='absent']")
	w.Reads("did not come")
	w.Goes("/office/rounds/" + p.Round.Key + "/decisions")
	w.Reads("did not come to the interview")
	w.Reads("met: 3.00")
	w.Goes(desk)
	w.Presses("a[href^='" + desk + "/']")
	w.Reads("Who is there")
	w.Sound()
}
