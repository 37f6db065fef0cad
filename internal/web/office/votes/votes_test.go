package votes_test

import (
	"context"
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Whatever the office posts is answered in a sentence, and what was typed stays.
func TestBadInput(t *testing.T) {
	t.Parallel()
	p := programtest.LaidOut(t, programtest.PublicVote)
	_, base := webtest.Serve(t, p.House)
	v := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	const at = "/office/rounds/shore-2027/vote"
	list, err := p.Ballots.OnPaper(t.Context(), p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	one := fmt.Sprint(list[0].ID)
	for _, c := range []struct {
		says, to string
		form     url.Values
		want     string
	}{
		{"looked at after the paper is laid out", "/look", url.Values{"project": {one}, "do": {"held"}, "why": {"late"}},
			"the ballot paper is laid out"},
		{"read out after it", "/gather", url.Values{}, "the ballot paper is laid out"},
		{"laid out twice", "/paper", url.Values{}, "the ballot paper is laid out"},
		{"taken back without a reason", "/paper", url.Values{"do": {"back"}}, "Say why it is taken back"},
		{"taken off without a reason", "/off", url.Values{"project": {one}, "do": {"off"}, "at": {"paper"}},
			"Say why: it stands on the ballot paper"},
		{"no such project", "/off", url.Values{"project": {"999999"}, "do": {"off"}, "why": {"gone"}, "at": {"paper"}},
			"no such project"},
		{"codes for nobody", "/sheets", url.Values{"codes": {"40"}, "at": {"codes"}}, "Say to whom the sheet is given"},
		{"no codes", "/sheets", url.Values{"label": {"Library"}, "codes": {"x"}, "at": {"codes"}}, `value="Library"`},
		{"too many codes", "/sheets", url.Values{"label": {"Library"}, "codes": {"5001"}, "at": {"codes"}},
			"Print 1 to 5,000 codes"},
		{"no such sheet", "/void", url.Values{"sheet": {"9"}, "why": {"lost"}, "at": {"codes"}}, "no such sheet"},
		{"too long a reason", "/off", url.Values{"project": {one}, "do": {"off"}, "why": {strings.Repeat("y", 1001)},
			"at": {"paper"}}, "up to 1,000 characters"},
		{"too long a sentence beside the result", "/publish", url.Values{"note": {strings.Repeat("y", 1001)},
			"at": {"result"}}, "up to 1,000 characters"},
		{"no such pattern", "/pattern", url.Values{"pattern": {"9"}, "do": {"counts"}, "why": {"school"}}, "no such pattern"},
		{"counted too early", "/count", url.Values{"at": {"result"}}, "votes are taken until 20:00 on Wednesday 9 June 2027"},
		{"published too early", "/publish", url.Values{"at": {"result"}}, "votes are taken until"},
		{"taken back and never published", "/publish", url.Values{"do": {"back"}, "why": {"why"}, "at": {"result"}},
			"no result is published"},
	} {
		t.Run(c.says, func(t *testing.T) {
			code, body := v.Submit(at+c.to, c.form)
			if code != 422 || !strings.Contains(strings.ToLower(body), strings.ToLower(c.want)) {
				t.Errorf("%d, %q is not on the page", code, c.want)
			}
		})
	}
	if code, body := v.See(at + "?at=turnout&address=none"); code != 200 || !webtest.Contains(body,
		"This is not a mail address") {
		t.Errorf("an address that is none: %d", code)
	}
	if code, body := v.See(at + "/turnout.csv"); code != 200 || !strings.HasPrefix(body,
		"day,asked for a ballot,ballots") {
		t.Errorf("the days as CSV: %d %s", code, body)
	}
}

// Nobody at the office sees a part of a result while votes are taken, on any part of the
// page.
func TestNoResultBeforeItIsClosed(t *testing.T) {
	t.Parallel()
	p := programtest.LaidOut(t, programtest.PublicVote)
	p.Box([]string{"A", "A", "A"})
	_, base := webtest.Serve(t, p.House)
	v := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	for _, part := range []string{"paper", "rehearsal", "codes", "turnout", "result"} {
		if _, body := v.See("/office/rounds/shore-2027/vote?at=" + part); webtest.Contains(body, `class="won"`) ||
			webtest.Contains(body, "Came to") {
			t.Errorf("%s shows a result", part)
		}
	}
}

// A vote of 3,100 ballots is counted by a job, and 10,000 cases are listed in parts.
func TestLargeVotes(t *testing.T) {
	t.Parallel()
	p := programtest.LaidOut(t, programtest.PublicVote)
	p.Crowd(`
		INSERT INTO ballot (round_id, key, receipt, choice, day)
		SELECT $1, decode(md5(g::text), 'hex'), 'R' || g, ARRAY[g % 5, (g + 1) % 5], '2027-06-02' FROM generate_series(1, 3100) g;
		INSERT INTO voter (round_id, address, token, asked_at, voted_on)
		SELECT $1, 'v' || g || '@x.example', decode(md5('t' || g), 'hex'), '2027-06-02', '2027-06-02' FROM generate_series(1, 3100) g;
		INSERT INTO application (round_id, ref, title, created_at) SELECT round_id, 'SPR-9' || g, 'Work ' || g, created_at
		FROM application, generate_series(1, 10000) g WHERE ref = $2;
		INSERT INTO relation (application_id, account_id, kind) SELECT id, $3, 'lead' FROM application WHERE ref LIKE 'SPR-9%';
		INSERT INTO entry (application_id, stage, design_id, state, state_at, seal_id) SELECT a.id, e.stage, e.design_id, e.state, e.state_at, e.seal_id
		FROM application a, (SELECT * FROM entry ORDER BY id LIMIT 1) e WHERE a.ref LIKE 'SPR-9%';
		INSERT INTO vote_project (round_id, entry_id, seal_id, title, cost, shown, pictures)
		SELECT a.round_id, e.id, e.seal_id, a.title, 1, '[]', '[]' FROM entry e JOIN application a ON a.id = e.application_id WHERE a.ref LIKE 'SPR-9%'`,
		p.Round.ID, p.Of["A"].Ref, p.Of["A"].LeadID)
	_, base := webtest.Serve(t, p.House)
	v := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	const at = "/office/rounds/shore-2027/vote"
	if code, body := v.See(at + "?at=paper&from=200"); code != 200 || strings.Count(body, "awardrow") != 200 ||
		!webtest.Contains(body, "10000 to look at") ||
		!webtest.Contains(body, ">10001</a>") {
		t.Errorf("%d, %d rows", code, strings.Count(body, "awardrow"))
	}
	p.Clock.Set(p.Form.VoteWindow().Closes.Add(time.Minute))
	v.As("neda@ostrel-trust.example")
	if code, _ := v.Submit(at+"/count", url.Values{}); code != 303 {
		t.Errorf("%d", code)
	}
	if _, body := v.See(at); !webtest.Contains(body, "being counted") && !webtest.Contains(body, "the public vote") {
		t.Error("the job is not shown")
	}
	p.Drain()
	if _, body := v.See(at); !webtest.Contains(body, "3100 ballots counted") {
		t.Error("it is not counted")
	}
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Publish(ctx, tx, p.Round,
			p.Form, "")
	}); err != nil {
		t.Error(err)
	}
}
