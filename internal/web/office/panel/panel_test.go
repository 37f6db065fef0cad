package panel_test

import (
	"context"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A meeting is called wrongly and then well; a member votes, steps out and may not lead;
// whoever leads notes, moves a case with a reason, takes the move back, and ends it.
func TestAMeeting(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRound(t, map[string]string{"Ann": "9,000", "Bo": "8,000", "Cy": "7,000"})
	_, base := webtest.Serve(t, p.House)
	sits := p.Person("vesna@panel.example", "Vesna Lisle")
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.People.GiveRole(ctx, tx, sits.ID, access.Held{Role: access.Sits, Scope: access.Scope{Round: p.Round.ID}})
	})
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	vesna := webtest.Visit(t, base).As("vesna@panel.example")
	desk := "/office/rounds/" + p.Round.Key + "/panel"
	call := func(changed ...string) url.Values {
		v := url.Values{"name": {"Spring panel"},
			"at":    {p.Clock.Now().In(p.Form.Zone).Add(time.Hour).Format("2006-01-02T15:04")},
			"place": {"The Lamp Room"}, "minutes": {"60"}, "votes": {"yes"}, "member": {strconv.FormatInt(sits.ID, 10)}}
		for i := 0; i < len(changed); i += 2 {
			v.Set(changed[i], changed[i+1])
		}
		return v
	}
	neda.Tries(
		webtest.Post{What: "without a name", To: desk, Form: call("name", ""), Code: 422, Says: "The Lamp Room"},
		webtest.Post{What: "at no time", To: desk, Form: call("at", "soon"), Code: 422, Says: "Spring panel"},
		webtest.Post{What: "minutes in words", To: desk, Form: call("minutes", "an hour"), Code: 422, Says: "an hour"},
		webtest.Post{What: "well", To: desk, Form: call(), Code: 303, Says: "The meeting is called"},
	)
	var id int64
	if err := p.DB.Get(&id, `SELECT id FROM panel_sitting`); err != nil {
		t.Fatal(err)
	}
	p.Clock.Set(p.Clock.Now().Add(time.Hour))
	at := desk + "/" + strconv.FormatInt(id, 10)
	of := func(name string, pairs ...string) url.Values {
		v := url.Values{"entry": {strconv.FormatInt(p.Of[name].EntryID, 10)}}
		for i := 0; i < len(pairs); i += 2 {
			v.Set(pairs[i], pairs[i+1])
		}
		return v
	}
	vesna.Tries(webtest.Post{What: "a member leads", To: at, Form: of("Ann", "do", "take"), Code: 422,
		Says: "hoever chairs does that"})
	neda.Tries(webtest.Post{What: "Ann is talked about", To: at, Form: of("Ann", "do", "take"), Code: 303, Says: "Ann"})
	vesna.Tries(
		webtest.Post{What: "a vote", To: at, Form: of("Ann", "do", "for"), Code: 303},
		webtest.Post{What: "a vote on what is not talked about", To: at, Form: of("Bo", "do", "for"), Code: 422},
		webtest.Post{What: "out of the room", To: at, Form: of("Bo", "do", "out", "why", "My brother works there."),
			Code: 303},
	)
	neda.Tries(
		webtest.Post{What: "a note, and the next", To: at, Form: of("Ann", "do", "next", "notes", "A sound budget."),
			Code: 303},
		webtest.Post{What: "moved without a reason", To: at, Form: of("Cy", "do", "up", "places", "1"), Code: 422},
		webtest.Post{What: "moved by so many", To: at, Form: of("Cy", "do", "up", "places", "a few", "why", "New figures."),
			Code: 422, Says: "“A few” is not a number of places."},
		webtest.Post{What: "moved", To: at, Form: of("Cy", "do", "up", "places", "1", "why", "New figures."), Code: 303,
			Says: "Moved; the line follows."},
	)
	var move int64
	if err := p.DB.Get(&move, `SELECT max(id) FROM panel_move`); err != nil {
		t.Fatal(err)
	}
	neda.Tries(
		webtest.Post{What: "taken back", To: at, Form: url.Values{"do": {"undo"}, "move": {strconv.FormatInt(move, 10)}},
			Code: 303, Says: "The move is taken back."},
		webtest.Post{What: "something else", To: at, Form: of("Ann", "do", "burn"), Code: 422, Says: "othing is to be done"},
		webtest.Post{What: "over", To: at, Form: url.Values{"do": {"end"}}, Code: 303, Says: "The meeting is over."},
		webtest.Post{What: "a note after the end", To: at, Form: of("Ann", "do", "note", "notes", "Late."), Code: 422},
		webtest.Post{What: "a meeting that is none", To: desk + "/999999", Form: of("Ann", "do", "take"), Code: 404},
	)
	if code, pdf := neda.See(at + "/minutes.pdf"); code != 200 || !strings.HasPrefix(pdf, "%PDF") {
		t.Errorf("minutes: %d", code)
	}
}
