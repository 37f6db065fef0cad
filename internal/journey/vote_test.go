package journey_test

import (
	"context"
	"regexp"
	"strings"
	"testing"
	"time"

	"ulvant/internal/ballot"
	"ulvant/internal/browser"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The public votes: the officer looks projects through, rehearses and lays the paper out;
// one votes on a telephone by a link in a mail and changes it once, one with a code on
// paper; both try to vote twice; a second after the closing nobody is let in. The officer
// counts and publishes, the voter finds the ballot by its receipt, and the browser counts
// it again. Nothing that axe-core looks for is wrong on the way.
func TestThePublicVotes(t *testing.T) {
	t.Parallel()
	p := programtest.Polls{Panel: programtest.SentToRound(t, programtest.PublicVote, programtest.ForVote)}
	p.Clock.Set(p.Form.At("vote-from").Add(-48 * time.Hour))
	p.Drain()
	_, base := webtest.Serve(t, p.House)
	b := webtest.Browser(t)
	window := func() webtest.Play { return webtest.In(t, webtest.Another(t, b, base)) }
	const at, vote = "/office/rounds/shore-2027/vote", "/votes/shore-2027"

	officer := window()
	officer.SignsIn("neda@ostrel-trust.example")
	officer.Goes("/office")
	officer.Reads("ballot paper to lay out")
	officer.Goes(at)
	officer.Reads("6 cases stand where it can be voted on")
	officer.Presses("main form .btn")
	officer.Reads("5 to look at")
	officer.Sound()
	officer.Ok(officer.Key("x")) // held back without a reason
	officer.Reads("Say why it is held back")
	for range 5 {
		left := `document.querySelectorAll('.awardrow small.hot').length`
		n, err := browser.Eval[int](officer.Person, left)
		officer.Ok(err)
		officer.Ok(officer.Key("m"))
		officer.Waits("document.readyState === 'complete' && " + left + " < " + webtest.ToJSON(n))
	}
	officer.Reads("Everything is looked at")
	officer.Goes(at + "?at=rehearsal")
	officer.Reads("Two camps: three fifths like one half")
	officer.Sound()
	visitor := window()
	visitor.Goes(vote)
	visitor.Reads("The public votes from")
	visitor.Ok(visitor.Until(`!document.body.textContent.includes('A jetty')`))
	officer.Goes(at)
	officer.Presses("form[action$='/paper'] .btn")
	officer.Reads("The ballot paper is laid out. Votes are taken from 08:00 on Tuesday 1 June")
	officer.Goes(at + "?at=codes")
	officer.Fills("[name=label]", "Library at Skerra")
	officer.Fills("[name=codes]", "2")
	officer.Sound()
	officer.Presses("form[action$='/sheets'] .btn")
	officer.Reads("Print this page now")
	code, err := browser.Eval[string](officer.Person, `document.querySelector('.codeslips .num').textContent`)
	officer.Ok(err)
	officer.Sound()

	p.Clock.Set(p.Form.At("vote-from"))
	phone := window()
	phone.Ok(phone.Size(390, 844))
	phone.Goes(vote)
	phone.Reads("A’s work")
	phone.Sound()
	phone.Ok(phone.Size(390, 844))
	phone.Fills("[name=address]", "ann@corvoe.example")
	phone.Presses("#mail [name=declares]")
	phone.Presses("#mail .btn")
	phone.Reads("A mail is on its way to ann@corvoe.example")
	p.Drain()
	link := webtest.Mailed(p.House, "ann@corvoe.example", "/ballot/")
	link = regexp.MustCompile(`/ballot/[A-Za-z0-9_-]+`).FindString(link)
	phone.Goes(link)
	phone.Reads("The order is drawn for you")
	order := `[...document.querySelectorAll('[name=named]')].map(x => x.value).join()`
	drawn, err := browser.Eval[string](phone.Person, order)
	phone.Ok(err)
	phone.Presses("[name=named][value='1']")
	phone.Presses("[name=named][value='3']")
	phone.Reads("2 chosen")
	phone.Sound()
	phone.Ok(phone.Size(390, 844))
	phone.Presses("#ballot .btn")
	phone.Reads("Your ballot is in the box")
	if again, err := browser.Eval[string](phone.Person, order); err != nil || again != drawn {
		t.Errorf("the paper is drawn anew: %s after %s, %v", again, drawn, err)
	}
	phone.Presses("[name=named][value='3']") // changed once
	phone.Presses("#ballot .btn")
	phone.Waits(`document.readyState === 'complete' && !(document.querySelector('.votebox p')?.textContent ?? ' and ').includes(' and ')`)
	receipt, err := browser.Eval[string](phone.Person, `document.querySelector('.receipt').textContent`)
	phone.Ok(err)
	phone.Sound()
	phone.Ok(phone.Size(390, 844))
	p.Clock.Set(p.Clock.Now().Add(3 * time.Minute))
	phone.Goes(vote) // the first try at voting twice
	phone.Fills("[name=address]", "Ann+2@corvoe.example")
	phone.Presses("#mail [name=declares]")
	phone.Presses("#mail .btn")
	phone.Reads("A mail is on its way")
	p.Drain()
	if text := webtest.Mailed(p.House, "ann+2@corvoe.example", "in the box"); strings.Contains(text, "/ballot/") ||
		text == "" {
		t.Errorf("a second ballot goes out: %s", text)
	}

	paper := window()
	paper.Goes(vote)
	paper.Fills("[name=code]", "7777-7777-7777")
	paper.Presses("#code [name=declares]")
	paper.Presses("#code .btn")
	paper.Reads("No ballot has this code")
	paper.Sound()
	paper.Fills("[name=code]", strings.ToLower(code))
	paper.Presses("#code .btn")
	paper.Reads("Your ballot")
	paper.Presses("[name=named][value='1']")
	paper.Presses("#ballot .btn")
	paper.Reads("the code on paper works once and is used")
	paper.Goes(vote) // the second
	paper.Fills("[name=code]", code)
	paper.Presses("#code [name=declares]")
	paper.Presses("#code .btn")
	paper.Reads("This code has been used, and each works once")

	officer.SignsIn("neda@ostrel-trust.example") // days later
	officer.Goes(at)
	officer.Reads("2 ballots in the box")
	officer.Reads("a code typed again after it was used")
	officer.Fills("[name=address]", "ann@corvoe.example")
	officer.Presses("form[method=get] .btn")
	officer.Reads("it is in the box")
	officer.Sound()
	p.Clock.Set(p.Form.VoteWindow().Closes.Add(time.Second))
	phone.Goes(link)
	phone.Reads("The vote closed on")
	err = p.Try(0, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Cast(ctx, tx, p.Form, p.Vote(), ballot.Token(strings.TrimPrefix(link, "/ballot/")), nil)
	})
	if err == nil || !strings.Contains(err.Error(), "closed") {
		t.Errorf("a second after the closing: %v", err)
	}
	officer.SignsIn("neda@ostrel-trust.example")
	officer.Goes("/office")
	officer.Reads("public vote to count")
	officer.Goes(at)
	officer.Presses("form[action$='/count'] .btn")
	officer.Reads("2 ballots are counted")
	officer.Fills("[name=note]", "The work begins in spring.")
	officer.Presses("form[action$='/publish'] .btn")
	officer.Reads("The page of the result")
	officer.Sound()

	visitor.Goes(vote)
	visitor.Reads("2 ballots counted")
	visitor.Reads("The work begins in spring.")
	visitor.Fills("[name=receipt]", strings.ToLower(receipt))
	visitor.Presses("#yours .btn")
	visitor.Reads(receipt + ": ")
	visitor.Presses("#again .btn")
	visitor.Reads("The same: 2 ballots, counted here in")
	visitor.Sound()
}
