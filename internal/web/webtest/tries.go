package webtest

import (
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
)

// Listed are the titles of a register's rows, in order.
func Listed(page string) string {
	var out []string
	for _, m := range regexp.MustCompile(`class="main" href="[^"]*beside=case[^"]*">([^<]*)<`).FindAllStringSubmatch(page,
		-1) {
		out = append(out, strings.TrimSuffix(strings.ReplaceAll(m[1], "&#39;", "’"), "’s work"))
	}
	return strings.Join(out, " ")
}

// Sent sends a form, and says where it leads.
func (v *Visitor) Sent(path string, form url.Values) (code int, location string) {
	v.T.Helper()
	form.Set("form_token", v.Token())
	res, err := v.PostForm(v.Base+path, form)
	if err != nil {
		v.T.Fatal(err)
	}
	res.Body.Close()
	return res.StatusCode, res.Header.Get("Location")
}

// Post is a form sent to an address, and what comes back: with which code, and what then
// stands on the page, or on the one it leads to.
type Post struct {
	What, To string
	Form     url.Values
	Code     int
	Says     string
}

var alerts = regexp.MustCompile(`(?s)<p [^>]*role="(?:alert|status)"[^>]*>(.*?)</p>`)

// said is what a page says of what was done, to be read in a test's report.
func said(page string) (out string) {
	for _, m := range alerts.FindAllStringSubmatch(page, -1) {
		out += "; it says: " + m[1]
	}
	return out
}

// Tries sends forms one after another.
func (v *Visitor) Tries(posts ...Post) {
	v.T.Helper()
	for _, p := range posts {
		p.Form.Set("form_token", v.Token())
		res, err := v.PostForm(v.Base+p.To, p.Form)
		if err != nil {
			v.T.Fatal(err)
		}
		b, err := io.ReadAll(res.Body)
		res.Body.Close()
		if err != nil {
			v.T.Fatal(err)
		}
		code, page := res.StatusCode, straight(string(b))
		if code == http.StatusSeeOther {
			_, page = v.See(res.Header.Get("Location"))
		}
		if code != p.Code || !strings.Contains(page, p.Says) {
			v.T.Errorf("%s: %d, and “%s” is not there%s", p.What, code, p.Says, said(page))
		}
	}
}
