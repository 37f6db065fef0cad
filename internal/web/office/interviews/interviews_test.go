package interviews_test

import (
	"net/url"
	"strconv"
	"testing"
	"time"

	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A day is laid out wrongly in every field of it and then well; two are invited; one
// interview is moved, one called off, and the day cannot go while somebody comes.
func TestADayOfInterviews(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRoundIn(t, programtest.WithInterviews, map[string]string{"Ann": "9,000", "Bo": "8,000"})
	_, base := webtest.Serve(t, p.House)
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	desk := "/office/rounds/" + p.Round.Key + "/interviews"
	member := strconv.FormatInt(programtest.MustAccount(t, p.DB, "oriel@readers.example"), 10)
	date := p.Clock.Now().In(p.Form.Zone).AddDate(0, 0, 6).Format(time.DateOnly)
	day := func(changed ...string) url.Values {
		v := url.Values{"do": {"day"}, "panel": {"Panel one"}, "place": {"The Customs House"}, "date": {date},
			"from":  {"09:00"},
			"until": {"11:00"}, "minutes": {"30"}, "between": {"10"}, "member": {member}}
		for i := 0; i < len(changed); i += 2 {
			v.Set(changed[i], changed[i+1])
		}
		return v
	}
	neda.Tries(
		webtest.Post{What: "no date", To: desk, Form: day("date", ""), Code: 422, Says: "Panel one"},
		webtest.Post{What: "a day gone by", To: desk, Form: day("date", "2026-01-05"), Code: 422, Says: "choose a later day"},
		webtest.Post{What: "begins at no time", To: desk, Form: day("from", "early"), Code: 422,
			Says: "Say when the first interview begins, as 09:00."},
		webtest.Post{What: "ends at no time", To: desk, Form: day("until", ""), Code: 422,
			Says: "Say when the day ends, as 17:00."},
		webtest.Post{What: "half a break", To: desk, Form: day("break-from", "12:30", "break-to", "late"), Code: 422,
			Says: "Say when the break ends, as 13:30"},
		webtest.Post{What: "minutes in words", To: desk, Form: day("minutes", "half an hour"), Code: 422,
			Says: "“half an hour” is not a number of minutes."},
		webtest.Post{What: "nobody meets them", To: desk, Form: day("member", "0"), Code: 422, Says: "panel"},
		webtest.Post{What: "well", To: desk, Form: day(), Code: 303, Says: "3 times are there."},

		webtest.Post{What: "so many, in words", To: desk, Form: url.Values{"do": {"invite"}, "first": {"both"}}, Code: 422,
			Says: "“both” is not a number of people."},
		webtest.Post{What: "choose until no day", To: desk,
			Form: url.Values{"do": {"invite"}, "first": {"2"}, "how": {"choose"}, "by": {"friday"}}, Code: 422,
			Says: "Give the day and time until which they choose."},
		webtest.Post{What: "invited", To: desk, Form: url.Values{"do": {"invite"}, "first": {"2"}}, Code: 303,
			Says: "2 people are invited."},
		webtest.Post{What: "given times", To: desk, Form: url.Values{"do": {"give"}}, Code: 303, Says: "2"},
		webtest.Post{What: "something else", To: desk, Form: url.Values{"do": {"burn"}}, Code: 422,
			Says: "othing is to be done"},
	)
	var days []int64
	if err := p.DB.Select(&days, `SELECT id FROM interview_day`); err != nil || len(days) != 1 {
		t.Fatal(days, err)
	}
	sheet := desk + "/" + strconv.FormatInt(days[0], 10)
	var free int64
	if err := p.DB.Get(&free, `SELECT s.id FROM interview_slot s WHERE NOT EXISTS (
		SELECT FROM interview i WHERE i.slot_id = s.id)`); err != nil {
		t.Fatal(err)
	}
	ann, bo := "/office/applications/"+p.Of["Ann"].Ref+"/interview", "/office/applications/"+p.Of["Bo"].Ref+"/interview"
	neda.Tries(
		webtest.Post{What: "moved without a reason", To: ann,
			Form: url.Values{"do": {"move"}, "slot": {strconv.FormatInt(free, 10)}}, Code: 422, Says: "hy"},
		webtest.Post{What: "moved to no time", To: ann,
			Form: url.Values{"do": {"move"}, "slot": {"999999"}, "why": {"The ferry."}}, Code: 422, Says: "The ferry."},
		webtest.Post{What: "moved", To: ann,
			Form: url.Values{"do": {"move"}, "slot": {strconv.FormatInt(free, 10)}, "why": {"The ferry."}}, Code: 303,
			Says: "Ann Hart is invited to the new time."},
		webtest.Post{What: "a zone that is none", To: ann, Form: url.Values{"do": {"zone"}, "zone": {"The moon"}}, Code: 422},
		webtest.Post{What: "the day goes while somebody comes", To: sheet, Form: url.Values{"do": {"drop"}}, Code: 422},
		webtest.Post{What: "called off without a reason", To: bo, Form: url.Values{"do": {"off"}}, Code: 422},
		webtest.Post{What: "called off", To: bo, Form: url.Values{"do": {"off"}, "why": {"The project is withdrawn."}},
			Code: 303,
			Says: "The interview is called off, and Bo Hart is told."},
		webtest.Post{What: "elsewhere", To: sheet,
			Form: url.Values{"panel": {"Panel one"}, "place": {"The Lamp Room"}, "member": {member}}, Code: 303,
			Says: "The day is changed. 1 person is told where it is now."},
		webtest.Post{What: "a day that is none", To: desk + "/999999", Form: url.Values{"do": {"drop"}}, Code: 404},
	)
	if _, page := neda.See(sheet); !webtest.Contains(page, "The Lamp Room") || !webtest.Contains(page, "Ann") {
		t.Error("the sheet of the day lacks where it is, or who comes")
	}
}
