package applicant_test

import (
	"bufio"
	"context"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"ulvant/internal/browser"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// An open page is told who else has the case open, where, and that something
// was changed; a stranger's request for the stream finds nothing.
func TestTheStream(t *testing.T) {
	t.Parallel()
	_, base, c := webtest.WithTeam(t)
	path := "/applications/" + c.Ref + "/stream?section=work&tab="
	if code, _ := webtest.Visit(t, base).As("neda@ostrel-trust.example").See(path + "0123456789abcdef"); code != 404 {
		t.Errorf("the office hears of a draft: %d", code)
	}
	imre, ysolde := webtest.Visit(t, base).As("imre@corvoe.example"), webtest.Visit(t, base).As("ysolde@tarl.example")
	if code, _ := imre.See(path + "no"); code != 400 {
		t.Errorf("a page without a number: %d", code)
	}
	listen := func(v *webtest.Visitor, tab string) (next func() string, end func()) {
		ctx, cancel := context.WithTimeout(t.Context(), 30*time.Second)
		req, err := http.NewRequestWithContext(ctx, http.MethodGet, base+path+tab, nil)
		if err != nil {
			t.Fatal(err)
		}
		res, err := v.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		lines := bufio.NewScanner(res.Body)
		return func() string {
			for lines.Scan() {
				if s, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
					return s
				}
			}
			t.Fatalf("the stream ended: %v", lines.Err())
			return ""
		}, func() { cancel(); res.Body.Close() }
	}
	first, endFirst := listen(imre, "0123456789abcdef0")
	defer endFirst()
	if s := first(); webtest.Contains(s, "Ysolde") {
		t.Errorf("alone, and told %s", s)
	}
	second, endSecond := listen(ysolde, "0123456789abcdef1")
	defer endSecond()
	if s := second(); !webtest.Contains(s, `"Name":"Imre Calloway","Section":"work"`) {
		t.Errorf("Ysolde is told %s", s)
	}
	if s := first(); !webtest.Contains(s, `"Name":"Ysolde Fenn"`) { // notified, not waiting for the beat
		t.Errorf("Imre is told %s", s)
	}
	begin := time.Now()
	if code, body := ysolde.SendJSON("/applications/"+c.Ref+"/answers", "application/json",
		`{"section":"work","edits":[{"question":"describe","version":1,"edit":"by-ysolde-1","value":"Reed and rush."}]}`,
		map[string]string{"Accept": "application/json", "X-Form-Token": ysolde.Token()}); code != 200 {
		t.Fatalf("%d %s", code, body)
	}
	for s := ""; !webtest.Contains(s, `"changed":true`); s = first() {
		if time.Since(begin) > 8*time.Second {
			t.Fatal("a change is heard of with the beat only")
		}
	}
	if _, body := imre.See("/applications/" + c.Ref + "/answers?section=work"); !webtest.Contains(body, "Reed and rush.") {
		t.Errorf("what is fetched: %s", body)
	}
}

// Somebody who is asked to read and comment can do that, and nothing else,
// and no more once it is sent.
func TestReadingAndCommenting(t *testing.T) {
	t.Parallel()
	h, base, c := webtest.WithTeam(t)
	tam := webtest.Visit(t, base).As("tam@tarl.example")
	at := "/applications/" + c.Ref
	for _, x := range []struct {
		path string
		form url.Values
		want int
	}{
		{at + "/comments/describe", url.Values{"text": {"Say how you will count the stems."}}, 303},
		{at + "/sections/work", url.Values{"describe": {"Mine"}, "describe!version": {"1"}}, 404},
		{at + "/send", url.Values{"password": {programtest.Password}}, 404},
		{at + "/title", url.Values{"title": {"Another"}}, 404},
		{at + "/team", url.Values{"name": {"X Y"}, "email": {"x@y.example"}}, 404},
	} {
		if code, _ := tam.Submit(x.path, x.form); code != x.want {
			t.Errorf("%s: %d, want %d", x.path, code, x.want)
		}
	}
	if code, page := tam.See(at + "/sections/work"); code != 200 || !webtest.Contains(page,
		"read this draft and comment") ||
		!webtest.Contains(page, "readonly") {
		t.Errorf("the draft to read: %d", code)
	}
	imre := webtest.Visit(t, base).As("imre@corvoe.example")
	if _, page := imre.See(at + "/sections/work"); !webtest.Contains(page, "Say how you will count the stems.") ||
		!webtest.Contains(page, "Tam Reed") {
		t.Error("the lead does not see the comment")
	}
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	if code, _ := tam.See(at + "/sections/work"); code != 404 {
		t.Errorf("after it was sent: %d", code)
	}
}

// Six pages open in one browser do not keep each other from saving.
func TestSixOpenPages(t *testing.T) {
	t.Parallel()
	h, base, c := webtest.WithTeam(t)
	type page struct {
		webtest.Play
		field, value string
	}
	var pages []page
	p := webtest.In(t, webtest.Window(t, base))
	p.SignsIn("imre@corvoe.example")
	for _, x := range [][3]string{{"work", "describe", "Reed, rush and sedge."}, {"work", "afterwards", "We mow."},
		{"work", "area", "2"}, {"place", "site", "the long strand"}, {"who", "body-name", "The Common"}, {"budget-section",
			"request", "5100"}} {
		w, err := p.Another()
		p.Ok(err)
		t.Cleanup(w.Leave)
		q := webtest.In(t, w)
		q.Goes("/applications/" + c.Ref + "/sections/" + x[0])
		pages = append(pages, page{q, x[1], x[2]})
	}
	for i, q := range pages {
		q.Waits(`document.getElementById('workspace').dataset.state !== 'plain'`)
		q.Fills("[name="+q.field+"]", q.value)
		if err := q.Until(`document.getElementById('workspace').dataset.state === 'kept'`); err != nil {
			s, _ := browser.Eval[string](q.Person, `document.getElementById('kept').textContent`)
			t.Fatalf("page %d: %v; %s", i+1, err, s)
		}
	}
	for _, q := range pages {
		if got := webtest.KeptText(t, h, c, q.field); got != q.value {
			t.Errorf("%s: the server has %q", q.field, got)
		}
	}
}
