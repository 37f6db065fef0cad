package voter_test

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

var tag = regexp.MustCompile(`<[^>]*>`)

// plain is what a page says.
func plain(body string) string {
	return strings.Join(strings.Fields(tag.ReplaceAllString(body, " ")), " ")
}

// submit a form, and look at the page that it leads to.
func submit(v *webtest.Visitor, path string, form url.Values) (int, string) {
	code, body := v.Submit(path, form)
	if code == http.StatusSeeOther {
		return v.See(path)
	}
	return code, body
}

// Whatever is typed is answered in a sentence, and what was typed stays.
func TestBadInput(t *testing.T) {
	t.Parallel()
	p := programtest.LaidOut(t, func(d *form.Design) { programtest.PublicVote(d); d.Vote.Most = 2 })
	_, base := webtest.Serve(t, p.House)
	v := webtest.Visit(t, base)
	ballot := "/ballot/" + string(p.Asks("ann@corvoe.example"))
	declared := url.Values{"declares": {"I am 14 or older."}}
	with := func(pairs ...string) url.Values {
		out := url.Values{"declares": declared["declares"]}
		for i := 0; i+1 < len(pairs); i += 2 {
			out.Add(pairs[i], pairs[i+1])
		}
		return out
	}
	for _, c := range []struct {
		says, at, to string
		form         url.Values
		code         int
		want         string
	}{
		{"nothing declared", "/votes/shore-2027", "/votes/shore-2027/ask", url.Values{"address": {"ann@corvoe.example"}},
			422, `value="ann@corvoe.example"`},
		{"another declaration", "/votes/shore-2027", "/votes/shore-2027/ask", url.Values{"address": {"a@b.example"},
			"declares": {"I am 5."}}, 422, "I am 14 or older."},
		{"no address", "/votes/shore-2027", "/votes/shore-2027/ask", with("address", "corvoe"), 422,
			"This is not a mail address"},
		{"two addresses", "/votes/shore-2027", "/votes/shore-2027/ask", with("address", "a@b.example,c@d.example"), 422,
			"This is not a mail address"},
		{"no code", "/votes/shore-2027", "/votes/shore-2027/code", with("code", "O1IL"), 422, "No ballot has this code"},
		{"too many", ballot, ballot, url.Values{"named": {"1", "2", "3"}}, 422,
			"you have chosen 3 projects, and this ballot may name 2"},
		{"one that is not there", ballot, ballot, url.Values{"named": {"99"}}, 422, "another ballot paper"},
		{"no number", ballot, ballot, url.Values{"named": {"x"}}, 422, "another ballot paper"},
		{"the same twice", ballot, ballot, url.Values{"named": {"1", "1"}}, 422, "is named twice"},
		{"none at all", ballot, ballot, url.Values{}, 200, "counts as a voter who came"},
		{"a link there is not", ballot, "/ballot/AAAA", url.Values{"named": {"1"}}, 404, "not the link of a ballot"},
	} {
		t.Run(c.says, func(t *testing.T) {
			code, body := submit(v, c.to, c.form)
			if code != c.code ||
				!strings.Contains(strings.ToLower(plain(body)), strings.ToLower(c.want)) &&
					!webtest.Contains(body, c.want) {
				t.Errorf("%d\n%s", code, plain(body))
			}
		})
	}
	for path, want := range map[string]int{"/votes/shore-2027/projects/99": 404, "/votes/shore-2027/pictures/1": 404,
		"/votes/shore-2027/ballots.json": 404,
		"/votes/none":                    404, "/ballot/none": 404} {
		if code, _ := v.See(path); code != want {
			t.Errorf("%s: %d", path, code)
		}
	}
}

// Places and points are read as they are chosen, and refused where no ballot can say them.
func TestPlacesAndPoints(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		by   form.CountBy
		form url.Values
		code int
		want string
	}{
		{form.CountRanked, url.Values{"p1": {"2"}, "p3": {"1"}}, 200, "1 %3 and 2 %1."},
		{form.CountRanked, url.Values{"p1": {"3"}, "p2": {"1"}}, 200, "1 %2 and 2 %1."}, // what is left out closes up
		{form.CountRanked, url.Values{"p1": {"1"}, "p2": {"1"}}, 422, "have the same place"},
		{form.CountRanked, url.Values{"p1": {"99"}}, 422, "another ballot paper"},
		{form.CountPoints, url.Values{"p1": {"2"}, "p2": {" 3 "}}, 200, "%1 2 and %2 3."},
		{form.CountPoints, url.Values{"p1": {"2"}, "p2": {"4"}}, 422, "more than 5 points"},
		{form.CountPoints, url.Values{"p1": {"1.5"}}, 422, "is no number of points"},
		{form.CountPoints, url.Values{"p1": {"-1"}, "p2": {"6"}}, 422, "is no number of points"},
	} {
		p := programtest.LaidOut(t, func(d *form.Design) {
			programtest.PublicVote(d)
			d.Vote.Count, d.Vote.Named, d.Vote.Most = c.by, 1, 5
		})
		_, base := webtest.Serve(t, p.House)
		v := webtest.Visit(t, base)
		ballot := "/ballot/" + string(p.Asks("ann@corvoe.example"))
		code, body := submit(v, ballot, c.form)
		list, err := p.Ballots.OnPaper(t.Context(), p.DB, p.Round.ID)
		if err != nil {
			t.Fatal(err)
		}
		want := c.want
		for i, x := range list {
			want = strings.ReplaceAll(want, fmt.Sprintf("%%%d", i+1), x.Title)
		}
		if text := plain(body); code != c.code || !strings.Contains(text, want) {
			t.Errorf("%s %v: %d, not %q in\n%s", c.by, c.form, code, want, text)
		}
	}
}

// A hall with one line waits and loses nothing: the page says how long, and what was
// typed goes on with it.
func TestAHallWaits(t *testing.T) {
	t.Parallel()
	p := programtest.LaidOut(t, programtest.PublicVote)
	_, base := webtest.Serve(t, p.House)
	v := webtest.Visit(t, base)
	var body string
	for i := range 13 {
		_, body = v.Submit("/votes/shore-2027/ask",
			url.Values{"address": {fmt.Sprintf("v%d@hall.example", i)}, "declares": {"I am 14 or older."}})
	}
	text := plain(body)
	if !strings.Contains(text, "Your turn is in") || !webtest.Contains(body, `value="v12@hall.example"`) {
		t.Fatalf("%s", text)
	}
	turn := regexp.MustCompile(`name="turn"\s+value="([^"]+)"`).FindStringSubmatch(body)
	if turn == nil {
		t.Fatal("no turn")
	}
	p.Clock.Set(p.Clock.Now().Add(5e9))
	_, body = v.Submit("/votes/shore-2027/ask",
		url.Values{"address": {"v12@hall.example"}, "declares": {"I am 14 or older."}, "turn": {turn[1]}})
	if !strings.Contains(plain(body), "A mail is on its way to v12@hall.example") {
		t.Errorf("%s", plain(body))
	}
}

// mostBytes is what a ballot’s page and all that it loads may weigh, as it goes over the
// line.
const mostBytes = 100_000

// A ballot of sixty projects, with all that its page loads, is small enough for a
// telephone on a bad line; no font and no picture is among what it needs at once.
func TestABallotIsSmall(t *testing.T) {
	t.Parallel()
	p := programtest.LaidOut(t, programtest.PublicVote)
	p.Crowd(`
		INSERT INTO application (round_id, ref, title, created_at) SELECT round_id, 'SPR-9' || g, 'Another work for the shore, number ' || g, created_at
		FROM application, generate_series(1, 55) g WHERE ref = $1;
		INSERT INTO relation (application_id, account_id, kind) SELECT id, $2, 'lead' FROM application WHERE ref LIKE 'SPR-9%';
		INSERT INTO entry (application_id, stage, design_id, state, state_at, seal_id) SELECT a.id, e.stage, e.design_id, e.state, e.state_at, e.seal_id
		FROM application a, (SELECT * FROM entry ORDER BY id LIMIT 1) e WHERE a.ref LIKE 'SPR-9%';
		INSERT INTO vote_project (round_id, entry_id, seal_id, number, title, cost, shown, pictures, ruling)
		SELECT a.round_id, e.id, e.seal_id, 5 + row_number() OVER (ORDER BY e.id), a.title, 1234500,
		  jsonb_build_array(jsonb_build_object('label', 'What would you do?', 'text', repeat('Reed and stone for the shore. ', 10))), '[]', 'shown'
		FROM entry e JOIN application a ON a.id = e.application_id WHERE a.ref LIKE 'SPR-9%'`, p.Of["A"].Ref, p.Of["A"].LeadID)
	_, base := webtest.Serve(t, p.House)
	get := func(path string) (body []byte, wire int) {
		t.Helper()
		req, err := http.NewRequest(http.MethodGet, base+path, nil)
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set("Accept-Encoding", "gzip")
		r, err := http.DefaultTransport.RoundTrip(req)
		if err != nil {
			t.Fatal(err)
		}
		defer r.Body.Close()
		raw, err := io.ReadAll(r.Body)
		if err != nil || r.StatusCode != 200 {
			t.Fatalf("%s: %d %v", path, r.StatusCode, err)
		}
		if r.Header.Get("Content-Encoding") == "gzip" {
			z, err := gzip.NewReader(bytes.NewReader(raw))
			if err != nil {
				t.Fatal(err)
			}
			if body, err = io.ReadAll(z); err != nil {
				t.Fatal(err)
			}
			return body, len(raw)
		}
		return raw, len(raw)
	}
	page, all := get("/ballot/" + string(p.Asks("ann@corvoe.example")))
	if n := bytes.Count(page, []byte(`name="named"`)); n != 60 {
		t.Fatalf("%d projects", n)
	}
	var loads []string
	for _, m := range regexp.MustCompile(`(?:src|href)="(/static/[^"]+)"`).FindAllSubmatch(page, -1) {
		loads = append(loads, string(m[1]))
	}
	slices.Sort(loads)
	for _, path := range slices.Compact(loads) {
		if strings.Contains(path, "woff2") || strings.Contains(path, "htmx") {
			t.Errorf("it loads %s", path)
		}
		_, n := get(path)
		all += n
	}
	if all > mostBytes || len(page) > mostBytes {
		t.Errorf("%d bytes over the line, the page alone is %d", all, len(page))
	}
	t.Logf("%d bytes over the line with %v; the page alone is %d", all, loads, len(page))
}
