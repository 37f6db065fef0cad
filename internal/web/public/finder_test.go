package public_test

import (
	"net/url"
	"testing"

	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The finder narrows the list, and one check answers for every open round.
func TestFinderAndOneCheck(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	v := webtest.Visit(t, base)
	for query, found := range map[string]bool{"": true, "?kind=grant": true, "?kind=competition": false,
		"?sum=5000": true, "?sum=1": false, "?place=Corvoe": true, "?who=One+person": true, "?sum=lots": true} {
		_, page := v.See("/" + query)
		if webtest.Contains(page, "spring 2027</a>") != found {
			t.Errorf("%q finds it: %v", query, !found)
		}
	}
	if _, page := v.See("/?sum=lots"); !webtest.Contains(page, "is not a sum") {
		t.Error("a sum that is none is passed over in silence")
	}
	for answers, verdict := range map[string]string{"common": "Not known yet", "": "Not known yet"} {
		if _, page := v.Submit("/check", url.Values{"applicant-kind": {answers}}); !webtest.Contains(page, verdict) {
			t.Errorf("%q: not %q", answers, verdict)
		}
	}
	yes := url.Values{"applicant-kind": {"common"}, "district": {"corvoe"}, "land-leave": {"yes"},
		"paid-elsewhere": {"no"}}
	if _, page := v.Submit("/check", yes); !webtest.Contains(page, "Yes, it could.") ||
		!webtest.Contains(page, "Begin with these answers") {
		t.Error("all that is asked is met, and it is not said")
	}
	yes.Set("district", "elsewhere")
	if _, page := v.Submit("/check", yes); !webtest.Contains(page, "No, not as it stands.") {
		t.Error("a place outside is not refused")
	}
}
