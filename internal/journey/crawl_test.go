package journey_test

import (
	"net/url"
	"regexp"
	"strings"
	"testing"

	"golang.org/x/net/html"

	"ulvant/demo"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

var (
	hrefs = regexp.MustCompile(`href="(/[^"#]*)`)
	ids   = regexp.MustCompile(`\sid="([^"]+)"`)
	// what a template leaves where it could not say something
	broken = regexp.MustCompile(`ZgotmplZ|%!|<no value>|&lt;nil&gt;|map\[|0x[0-9a-f]{8}`)
)

// On the whole demo, everybody can follow every link they are shown: each page
// is there, says nothing a template could not, and has no id twice; and a
// section that is kept without scripts, untouched, changes no answer.
func TestEveryLinkOfTheDemo(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	_, base := webtest.Serve(t, h)
	seenBy, sections := map[string]int{}, 0
	for _, who := range []string{"", "neda.sparrow@ostrel-trust.example", "piran.lode@ostrel-trust.example",
		"beathag.moss@isles-peat-board.example", "runa.slipwright@tarl-slip.example", "signe.aldous@ostrel-trust.example",
		"imre.calloway@corvoe-foreshore-common.example", "juno.blackadder@leavers.example",
		"annelise.broch@studio-broch.example", "isolde.fairweather@night.example",
		"dervla.quayle@tarl-moor-society.example", "branwen.iveagh@ness-common.example", "oriel.vane@readers.example"} {
		v := webtest.Visit(t, base)
		if who != "" {
			if code, body := v.Submit("/sign-in", url.Values{"email": {who}, "password": {demo.Password}}); code != 303 {
				t.Fatalf("%s cannot sign in: %d %s", who, code, body)
			}
		}
		seen, todo, alike := map[string]bool{}, []string{"/", "/applications", "/reading", "/office"}, map[string]int{}
		if who == "" {
			todo = todo[:1]
		}
		for len(todo) > 0 && len(seen) < 220 {
			page := todo[0]
			todo = todo[1:]
			if seen[page] || alike[shape(page)] >= 12 { // a dozen of a kind will do
				continue
			}
			seen[page] = true
			alike[shape(page)]++
			res, err := v.Get(base + page)
			if err != nil {
				t.Fatal(err)
			}
			res.Body.Close()
			if res.StatusCode == 303 { // on to another page
				continue
			}
			if res.StatusCode != 200 {
				if !strings.HasPrefix(page, "/office") && page != "/reading" { // a desk that is not theirs
					t.Errorf("%s at %s: %d", who, page, res.StatusCode)
				}
				continue
			}
			if !strings.HasPrefix(res.Header.Get("Content-Type"), "text/html") {
				continue
			}
			_, body := v.See(page)
			if m := broken.FindString(body); m != "" {
				t.Errorf("%s at %s: %q stands on the page", who, page, m)
			}
			once := map[string]bool{}
			for _, m := range ids.FindAllStringSubmatch(body, -1) {
				if once[m[1]] {
					t.Errorf("%s at %s: the id %q stands twice", who, page, m[1])
				}
				once[m[1]] = true
			}
			if form := webtest.Posted(t, body, "answers"); webtest.Contains(page, "/sections/") &&
				len(form) > 0 { // without scripts, nothing touched
				before := everyAnswer(t, h)
				if code, body := v.Submit(page, form); code != 303 {
					t.Errorf("%s keeps %s as it is: %d %s", who, page, code, body)
				}
				if everyAnswer(t, h) != before {
					t.Errorf("%s at %s: kept untouched, answers changed", who, page)
				}
				sections++
			}
			for _, m := range hrefs.FindAllStringSubmatch(body, -1) {
				if next := html.UnescapeString(m[1]); !strings.HasPrefix(next, "/static/") {
					todo = append(todo, next)
				}
			}
		}
		seenBy[who] = len(seen)
	}
	if sections < 20 {
		t.Errorf("only %d sections were kept as they are", sections)
	}
	if seenBy["neda.sparrow@ostrel-trust.example"] < 100 || seenBy[""] < 20 {
		t.Errorf("few pages were looked at: %v", seenBy)
	}
}

func everyAnswer(t *testing.T, h *programtest.House) (sum string) {
	t.Helper()
	err := h.DB.Get(&sum,
		`SELECT md5(string_agg(concat_ws('|', entry_id, question, row_key, column_key, version, value, non), ';' ORDER BY entry_id, question, row_key, column_key)) FROM answer`)
	if err != nil {
		t.Fatal(err)
	}
	return sum
}

var numbers = regexp.MustCompile(`[A-Z]{2,4}-\d+-.|\d+|=[^&]*`)

// shape of an address: those of a kind look the same.
func shape(page string) string { return numbers.ReplaceAllString(page, "*") }
