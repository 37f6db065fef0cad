package readings_test

import (
	"net/url"
	"strconv"
	"testing"

	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// What a chair sends wrongly, and rightly, while cases find their readers: readers are
// invited and described, a plan is worked out, changed and given out, a case is taken
// back, its marks are opened again, and the reading of one ends early.
func TestCasesFindTheirReaders(t *testing.T) {
	t.Parallel()
	p := programtest.SentTo(t, map[string]string{"Ann": "9,000", "Bo": "7,000"})
	_, base := webtest.Serve(t, p.House)
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	desk := "/office/rounds/" + p.Round.Key
	say := func(pairs ...string) url.Values {
		v := url.Values{}
		for i := 0; i < len(pairs); i += 2 {
			v.Add(pairs[i], pairs[i+1])
		}
		return v
	}
	neda.Tries(
		webtest.Post{What: "a reader without an address", To: desk + "/readers", Form: say("name", "Oriel Vane"), Code: 422,
			Says: `value="Oriel Vane"`},
		webtest.Post{What: "a reader", To: desk + "/readers", Form: say("name", "Oriel Vane", "email",
			"oriel@readers.example"),
			Code: 303, Says: "The invitation to Oriel Vane is on its way."},
		webtest.Post{What: "one reader where each case asks for two", To: desk + "/hand-out", Form: say(), Code: 303,
			Says: "2 cases are with 1 reader; nobody has more than 2. Too few readers may read"},
	)
	readers := p.InviteReaders("Teodora Brisk", "Sami Roe")
	reader := desk + "/readers/" + strconv.FormatInt(readers[0], 10)
	neda.Tries(
		webtest.Post{What: "away to a day that is none", To: reader, Form: say("from", "soon", "to", "2027-05-01"), Code: 422,
			Says: `value="soon"`},
		webtest.Post{What: "so many cases at most", To: reader, Form: say("most", "many"), Code: 422, Says: `value="many"`},
		webtest.Post{What: "what is known of her", To: reader, Form: say("organisation", "Tarl College", "most", "9"),
			Code: 303,
			Says: "Kept."},
		webtest.Post{What: "taken off without a reason", To: reader, Form: say("do", "take off"), Code: 422, Says: "why"},
		webtest.Post{What: "taken off", To: reader, Form: say("do", "take off", "why", "She is on leave."), Code: 303,
			Says: "Teodora Brisk reads no more in this round"},
		webtest.Post{What: "back", To: reader, Form: say("do", "back"), Code: 303, Says: "Teodora Brisk reads again."},
		webtest.Post{What: "a reader of no round", To: desk + "/readers/999999", Form: say("do", "back"), Code: 404},

		webtest.Post{What: "at most, in words", To: desk + "/reading/work-out", Form: say("most", "a few"), Code: 422,
			Says: "“a few” is not a number of cases."},
		webtest.Post{What: "fewer than none", To: desk + "/reading/work-out", Form: say("least", "-1"), Code: 422,
			Says: "“-1” is not a number of cases."},
		webtest.Post{What: "worked out", To: desk + "/reading/work-out", Form: say("apart", "yes"), Code: 303,
			Says: "nobody has been told"},
	)
	plan, err := p.Reading.PlanOf(t.Context(), p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	version, one := strconv.Itoa(plan.Version), strconv.FormatInt(plan.Entries[0], 10)
	neda.Tries(
		webtest.Post{What: "a case of another plan", To: desk + "/reading/plan",
			Form: say("do", "move", "version", version, "case", "999999", "reader", "1"), Code: 409, Says: "plan"},
		webtest.Post{What: "an older plan", To: desk + "/reading/plan", Form: say("do", "give out", "version", "-1"),
			Code: 409,
			Says: "look at it again"},
		webtest.Post{What: "thrown away", To: desk + "/reading/plan", Form: say("do", "drop"), Code: 303,
			Says: "Nobody was told of it."},
		webtest.Post{What: "worked out once more", To: desk + "/reading/work-out", Form: say(), Code: 303,
			Says: "nobody has been told"},
	)
	if code, page := neda.See(desk + "/reading/plan?case=" + one); code != 200 ||
		!webtest.Contains(page, "Teodora Brisk") {
		t.Errorf("one case of the plan: %d", code)
	}
	if plan, err = p.Reading.PlanOf(t.Context(), p.DB, p.Round.ID); err != nil {
		t.Fatal(err)
	}
	neda.Tries(webtest.Post{What: "given out", To: desk + "/reading/plan",
		Form: say("do", "give out", "version", strconv.Itoa(plan.Version)), Code: 303, Says: "Each of them is told by mail."})

	ann := "/office/applications/" + p.Of["Ann"].Ref + "/reading"
	bo := "/office/applications/" + p.Of["Bo"].Ref + "/reading"
	second := func(name string) int64 { // the first reader of both came with the first hand-out
		given, err := p.Reading.Of(t.Context(), p.DB, p.Of[name].EntryID)
		if err != nil || len(given) != 2 {
			t.Fatal(given, err)
		}
		return given[1].AccountID
	}
	hers, his := strconv.FormatInt(second("Ann"), 10), strconv.FormatInt(second("Bo"), 10)
	p.MarksWhole("Bo", second("Bo"))
	neda.Tries(
		webtest.Post{What: "taken back without a reason", To: ann, Form: say("do", "take back", "reader", hers), Code: 303,
			Says: "Nothing was changed: "},
		webtest.Post{What: "taken back", To: ann, Form: say("do", "take back", "reader", hers, "why", "She knows them."),
			Code: 303, Says: "Taken back. It can be handed out again."},
		webtest.Post{What: "opened again", To: bo,
			Form: say("do", "reopen", "reader", his, "why", "Read the plan too.", "from", "reader"), Code: 303,
			Says: "The marks are open again, and the reader is told why."},
		webtest.Post{What: "something else", To: bo, Form: say("do", "burn"), Code: 404},
		webtest.Post{What: "all who are late are written to", To: desk + "/readers/remind", Form: say(), Code: 303,
			Says: "by mail"},
	)
	p.MarksWhole("Bo", second("Bo"))
	neda.Tries(
		webtest.Post{What: "ended with the marks there are", To: bo,
			Form: say("do", "end", "why", "The other reader is ill."), Code: 303,
			Says: "Reading has ended with the marks there are."},
		webtest.Post{What: "a sample that is no case", To: desk + "/reading/sample",
			Form: say("ref", "SPR-9999-X", "note", "Read the budget first."), Code: 422, Says: "Read the budget first."},
	)
}
