package guest_test

import (
	"context"
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
	"ulvant/internal/web/webtest"
)

// teacher asks for a letter whose sight the applicant keeps or gives up, and that
// may come after the closing.
func teacher(d *form.Design) {
	d.Rules, d.Figures, d.Request, d.Listed = nil, nil, "", form.Listing{}
	d.Field = ""
	closes, _ := d.Moment(form.Closes)
	plan := form.Question{Key: "plan", Kind: form.Long, Label: "The plan", Nature: form.Chosen, Blank: form.MeansNo,
		Seen: form.ToReaders}
	q := form.Question{
		Key:    "teacher",
		Kind:   form.Referee,
		Label:  "A teacher",
		Nature: form.Chosen,
		Blank:  form.Required,
		Seen:   form.ToReaders,
		Limits: form.Cases[form.Limits]{Else: form.Limits{Referees: 1}},
		Ask: &form.Ask{
			Wants: "How do they work?",
			Sight: form.SightChosen,
			By:    &form.Day{On: closes.At.Date.AddDays(9)},
		},
		Columns: []form.Question{{Key: "well", Kind: form.Short, Label: "In a word?", Nature: form.Chosen,
			Blank: form.Required, Seen: form.ToReaders}},
	}
	d.Sections = []form.Section{{Key: "all", Label: "All", Questions: []form.Question{plan, q}}}
}

const (
	secret = "Quillwort-and-gannet"
	word   = "steadfastly-so"
	paper  = "kestrel-opinion.pdf"
)

// vouches plays one referee to the end: named with sight given up or kept, by the
// page, and their letter sent with a file.
func vouches(t *testing.T, h *programtest.House, base string, c application.Case, name, waived string) {
	t.Helper()
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	address := strings.ToLower(name) + "@peat.example"
	if code, body := v.Submit("/applications/"+c.Ref+"/referees/teacher", url.Values{"name": {name}, "email": {address},
		"knows": {"taught me"}, "waived": {waived}}); code != 303 {
		t.Fatal(code, body)
	}
	link := webtest.Link(t, h, address)
	d := webtest.Visit(t, base)
	says := map[string]string{"yes": "has given up the right to read it",
		"no": "may read it once you have sent it"}[waived]
	if code, body := d.See(link); code != 200 || !webtest.Contains(body, says) {
		t.Errorf("%s is not told that sight is waived: %s", name, waived)
	}
	d.Submit(link+"/answer", url.Values{"answer_": {"yes"}})
	version := func() (n string) {
		if err := h.DB.Get(&n, `SELECT version::text FROM referee WHERE email = $1`, address); err != nil {
			t.Fatal(err)
		}
		return n
	}
	if code, body := d.Upload(link+"/file", map[string]string{"version_": version(), "letter_": secret, "well": word},
		paper,
		string(programtest.Plan)); code != 303 &&
		code != 422 {
		t.Fatal(code, body)
	}
	if code, body := d.Submit(link+"/send", url.Values{"version_": {version()}, "letter_": {secret},
		"well": {word}}); code != 303 {
		t.Fatal(code, body)
	}
}

var hrefs = regexp.MustCompile(`(?:href|src|action)="(/[^"#]*)"`)

// crawl sees every page and file that an applicant is led to from some, and gives
// those that hold one of the words.
func crawl(v *webtest.Visitor, from []string, words ...string) (holds []string, seen int) {
	done, queue := map[string]bool{}, append([]string{}, from...)
	for len(queue) > 0 {
		path := queue[0]
		queue = queue[1:]
		if done[path] || strings.HasPrefix(path, "/static/") || strings.HasPrefix(path, "/tray") ||
			strings.Contains(path, "sign-out") {
			continue
		}
		done[path] = true
		code, body := v.See(path)
		if code == 200 {
			seen++
		}
		for _, w := range words {
			if webtest.Contains(body, w) {
				holds = append(holds, path+": "+w)
			}
		}
		for _, m := range hrefs.FindAllStringSubmatch(body, -1) {
			queue = append(queue, strings.ReplaceAll(m[1], "&amp;", "&"))
		}
	}
	return holds, seen
}

// A letter whose sight was given up is found by its applicant on no page, in no
// export, trail, file name or file, before and after sending; one whose sight was
// kept is.
func TestSightGivenUpIsHonoured(t *testing.T) {
	t.Parallel()
	for _, waived := range []string{"yes", "no"} {
		t.Run("given up: "+waived, func(t *testing.T) {
			t.Parallel()
			h := programtest.New(t)
			_, base := webtest.Serve(t, h)
			h.OpenRound(webtest.Officer(h), teacher)
			c := h.Draft("imre@corvoe.example")
			vouches(t, h, base, c, "Ada", waived)
			v := webtest.Visit(t, base).As("imre@corvoe.example")
			mine := "/applications/" + c.Ref
			look := func(when string) {
				t.Helper()
				holds, seen := crawl(
					v,
					[]string{"/applications", mine, mine + "/people", mine + "/send", mine + "/sent",
						mine + "/copy", mine + "/earlier", mine + "/to-follow", "/asked", "/account", "/shelf"},
					secret,
					word,
					paper,
				)
				if waived == "yes" && len(holds) > 0 {
					t.Errorf("%s: %q", when, holds)
				}
				if waived == "no" && len(holds) < 2 {
					t.Errorf("%s: sight was kept, and it is found only at %q", when, holds)
				}
				if seen < 8 {
					t.Errorf("%s: only %d pages were seen", when, seen)
				}
			}
			look("as a draft")
			var r struct{ ID, File int64 }
			if err := h.DB.Get(&r, `SELECT id, letter_file AS file FROM referee`); err != nil {
				t.Fatal(err)
			}
			want := map[string]int{"yes": 404, "no": 200}[waived]
			for _, path := range []string{fmt.Sprintf("%s/referee/%d/letter", mine, r.ID),
				fmt.Sprintf("%s/referee/%d/letter/%d", mine, r.ID, r.File)} {
				if code, _ := v.See(path); code != want {
					t.Errorf("%s: %d", path, code)
				}
			}
			for _, path := range []string{fmt.Sprintf("%s/files/%d", mine, r.File),
				fmt.Sprintf("%s/file/%d", mine, r.File)} { // the address of their own files is none for it
				if code, body := v.See(path); code == 200 && webtest.Contains(body, "%PDF") {
					t.Errorf("%s gives the file out", path)
				}
			}
			if code, body := v.SendJSON(mine+"/answers", "application/json", `{"edits":[]}`, nil); strings.Contains(
				body,
				secret,
			) {
				t.Errorf("a save's answer: %d %s", code, body)
			}
			lead := h.Person("imre@corvoe.example", "Imre Calloway")
			h.Act(
				lead.ID,
				func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err },
			)
			h.Drain()
			look("sent")
			mails, _ := h.Tray.List("imre@corvoe.example", 0, 50)
			for _, m := range mails {
				if strings.Contains(m.Subject+m.Body+string(m.Bytes), secret) || strings.Contains(m.Body, paper) {
					t.Errorf("a mail holds it: %s", m.Subject)
				}
			}
		})
	}
}

// Everything that was asked of an address stands on one page, whoever asks: what
// is theirs to do first, with its date, and the others' links beside it.
func TestEverythingAskedOfOneAddress(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), teacher)
	kept := false
	asks := func(lead, address string) application.Case {
		c := h.Draft(lead)
		h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Referees.Name(
				ctx,
				tx,
				c,
				"teacher",
				reference.Person{Name: "Ada", Email: address, Knows: "taught me",
					Waived: &kept},
			)
			return err
		})
		return c
	}
	asks("imre@corvoe.example", "ada@peat.example")
	asks("una@corvoe.example", "ada@peat.example")
	asks("bo@corvoe.example", "other@peat.example")
	first := webtest.Link(t, h, "ada@peat.example")
	v := webtest.Visit(t, base)
	code, body := v.See(first + "/all")
	if code != 200 || strings.Count(body, "You have not answered yet.") != 2 ||
		!webtest.Contains(body, "2 things wait for you.") ||
		!webtest.Contains(body, "Needed by Mon 19 Apr 2027, 00:00.") {
		t.Errorf("%d %s", code, body)
	}
	links := regexp.MustCompile(`/letter/[\w-]+`).FindAllString(body, -1)
	for _, l := range links {
		if code, body := v.See(l); code != 200 || !webtest.Contains(body, "Everything asked of you") {
			t.Errorf("%s: %d", l, code)
		}
	}
	if len(links) < 2 {
		t.Errorf("the links beside it: %q", links)
	}
	if code, body := v.Submit(first+"/answer", url.Values{"answer_": {"no"}, "why_": {"I am away."},
		"instead_": {"Bo"}}); code != 303 {
		t.Fatal(code, body)
	}
	if _, body := v.See(first + "/all"); !webtest.Contains(body, "One thing waits") &&
		!webtest.Contains(body, "1 thing waits for you.") ||
		!webtest.Contains(body, "You said that you cannot do it.") {
		t.Error(body)
	}
	// with an account, the same; another's stays another's
	h.Person("ada@peat.example", "Ada Quill")
	a := webtest.Visit(t, base).As("ada@peat.example")
	if code, body := a.See("/asked"); code != 200 || !webtest.Contains(body, "You said that you cannot do it.") {
		t.Errorf("%d %s", code, body)
	}
	o := webtest.Visit(t, base).As("bo@corvoe.example")
	if _, body := o.See("/asked"); webtest.Contains(body, "/letter/") ||
		!webtest.Contains(body, "Nothing is asked of") {
		t.Error(body)
	}
}
