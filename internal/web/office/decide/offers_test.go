package decide_test

import (
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// What is put in wrongly about offers is said in a sentence, keeps what was typed and changes
// nothing, at the office and for whoever was offered something; another’s offer is not found.
func TestOffersPutInWrongly(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRoundIn(t, func(d *form.Design) {
		programtest.Short(d)
		d.Offer = &form.Offer{Days: 10, Promises: []string{"I send a report."}}
	}, map[string]string{"Ann": "40,000", "Bo": "30,000"})
	if _, err := p.Records("", p.Choices(map[string]int64{"Ann": 40_000_00, "Bo": 30_000_00})); err != nil {
		t.Fatal(err)
	}
	p.After(2 * time.Hour)
	list, err := p.Offers.Of(t.Context(), p.DB, p.Of["Ann"].EntryID)
	if err != nil || len(list) != 1 {
		t.Fatalf("%d, %v", len(list), err)
	}
	id := strconv.FormatInt(list[0].ID, 10)
	_, base := webtest.Serve(t, p.House)
	at, mine := "/office/rounds/shore-2027/offers/", "/applications/"+p.Of["Ann"].Ref+"/offers/"
	why := "She said so by telephone."
	for _, c := range []struct {
		says, who, to string
		form          url.Values
		code          int
		want          string
	}{
		{"no act", "neda@ostrel-trust.example", at + id, url.Values{"do": {"frown"}, "why": {why}}, 422, why},
		{"an act of the clock", "neda@ostrel-trust.example", at + id, url.Values{"do": {"lapsed"}, "why": {why}}, 422,
			"opens an offer again"},
		{"no reason", "neda@ostrel-trust.example", at + id, url.Values{"do": {"accepted"}}, 422, "Say why"},
		{"too long a reason", "neda@ostrel-trust.example", at + id, url.Values{"do": {"accepted"},
			"why": {strings.Repeat("y", 1001)}}, 422, "1,000 characters"},
		{"no day", "neda@ostrel-trust.example", at + id, url.Values{"do": {"time"}, "until": {"soon"}, "why": {why}}, 422,
			"Choose the last day"},
		{"a day that is over", "neda@ostrel-trust.example", at + id, url.Values{"do": {"time"}, "until": {"2020-01-01"},
			"why": {why}}, 422, "still to come"},
		{"no such offer", "neda@ostrel-trust.example", at + "999999", url.Values{"do": {"accepted"}, "why": {why}}, 422,
			"not there"},
		{"no promise", "ann@corvoe.example", mine + id, url.Values{"do": {"accept"}}, 422, "is not ticked"},
		{"a reason that is too long", "ann@corvoe.example", mine + id, url.Values{"do": {"decline"},
			"why": {strings.Repeat("y", 1001)}}, 422, "1,000 characters"},
		{"nothing to do", "ann@corvoe.example", mine + id, url.Values{"do": {"frown"}}, 400, ""},
		{"no such offer of theirs", "ann@corvoe.example", mine + "999999", url.Values{"do": {"decline"}}, 404, ""},
		{"another’s offer by one’s own case", "bo@corvoe.example", "/applications/" + p.Of["Bo"].Ref + "/offers/" + id,
			url.Values{"do": {"decline"}}, 404, ""},
		{"another’s case", "bo@corvoe.example", mine + id, url.Values{"do": {"decline"}}, 404, ""},
	} {
		v := webtest.Visit(t, base).As(c.who)
		if code, body := v.Submit(c.to, c.form); code != c.code || !webtest.Contains(body, c.want) {
			t.Errorf("%s: %d, without %q", c.says, code, c.want)
		}
	}
	if list, err = p.Offers.Of(t.Context(), p.DB, p.Of["Ann"].EntryID); err != nil || list[0].Answer != "open" {
		t.Errorf("%+v, %v", list, err)
	}
}
