package awards_test

import (
	"context"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Whatever is posted or asked for is answered in a sentence, and what was typed stays.
func TestBadInput(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, programtest.ManyAwards, programtest.ForAwards)
	p.Clock.Set(p.Form.At(form.Closes).Add(time.Hour))
	p.Drain()
	_, base := webtest.Serve(t, p.House)
	v := webtest.Visit(t, base)
	v.Submit("/sign-in", url.Values{"email": {"neda@ostrel-trust.example"}, "password": {programtest.Password}})
	const at = "/office/rounds/shore-2027/placing"
	if code, body := v.Submit(at+"/record", url.Values{"note": {"Committee"}}); code != 422 ||
		!webtest.Contains(body, "work it out first") {
		t.Errorf("recorded before anything is worked out: %d", code)
	}
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Awards.WorkOut(ctx, tx, p.Round, p.Form, nil)
		return err
	})
	ann := strconv.FormatInt(p.Of["Ann"].EntryID, 10)
	for _, c := range []struct {
		says, to string
		form     url.Values
		want     []string // that stand on the page
	}{
		{"nobody", "/pair", url.Values{"do": {"give"}, "entry": {"x"}, "of": {"loft"}, "why": {"kind"}},
			[]string{"does not stand to this award"}},
		{"no award", "/pair", url.Values{"do": {"give"}, "entry": {ann}, "of": {"none"}, "why": {"kind"}},
			[]string{"does not stand to this award"}},
		{"no act", "/pair", url.Values{"do": {"frown"}, "entry": {ann}, "of": {"loft"}},
			[]string{"hoose what is to be done"}},
		{"no reason", "/pair", url.Values{"do": {"bar"}, "entry": {ann}, "of": {"loft"}}, []string{"Say why"}},
		{"too long a reason", "/pair", url.Values{"do": {"bar"}, "entry": {ann}, "of": {"loft"},
			"why": {strings.Repeat("y", 1001)}}, []string{"1,000 characters"}},
		{"a what-if without a name", "/what-if", url.Values{"most": {"7"}, "rule": {"merit"}, "reach": {"yes"}},
			[]string{"a name of up to 60", `value="7"`, `value="merit" selected`}},
		{"no number", "/what-if", url.Values{"name": {"Mine"}, "most": {"many"}}, []string{"is not a number of awards",
			`value="Mine"`}},
		{"no such rule", "/what-if", url.Values{"name": {"Mine"}, "rule": {"luck"}}, []string{"by need or by merit"}},
		{"one each first, and two", "/what-if", url.Values{"name": {"Mine"}, "most": {"2"}, "reach": {"yes"}},
			[]string{"set the most to 1"}},
		{"taking away what is not there", "/what-if", url.Values{"do": {"drop"}, "by": {"999999"}},
			[]string{"no such placing"}},
		{"recording what is not there", "/record", url.Values{"by": {"999999"}, "note": {"Committee"}},
			[]string{"no such placing"}},
		{"an outcome there is not", "/record", url.Values{"by": {"1"}, "note": {"Committee of May"}, "others": {"glad"}},
			[]string{"stay open", "Committee of May"}},
		{"an award there is not", "/record", url.Values{"by": {"1"}, "note": {"Committee"}, "only": {"none"}},
			[]string{"no such award"}},
	} {
		t.Run(c.says, func(t *testing.T) {
			code, body := v.Submit(at+c.to, c.form)
			if code != 422 {
				t.Errorf("%d", code)
			}
			for _, w := range c.want {
				if !webtest.Contains(body, w) {
					t.Errorf("%q is not on the page", w)
				}
			}
		})
	}
	for _, query := range []string{"?by=x&award=none&person=none&show=none", "?from=-3", "?from=99999999999999999999",
		"?from=9223372036854775807",
		"?show=say&award=held", "?award=loft&person=" + p.Of["Bo"].Ref, "/compare?a=x&b=9"} {
		if code, _ := v.See(at + query); code != 200 {
			t.Errorf("%s: %d", query, code)
		}
	}
}
