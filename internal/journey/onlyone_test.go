package journey_test

import (
	"context"
	"net/url"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Where everybody may send one, the page on which another would be begun says
// so, and a hand-made request is refused; once the first is withdrawn it is not.
func TestOnlyOneEach(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		d.Rules = append(d.Rules, form.Rule{Key: "one-each", Label: "One each", Yes: "It is the only one.",
			No: "You have sent another. Withdraw it if this one is to stand.", Look: "Somebody will look.",
			Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Fixed: condition.OthersInRound},
				Rel: condition.AtMost, Value: &condition.Value{Number: &condition.Number{Num: 0, Den: 1}}}}})
	})
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	if _, page := v.See("/rounds/shore-2027/start"); webtest.Contains(page, "You have sent another") ||
		!webtest.Contains(page, ">Begin<") {
		t.Error("before anything is sent")
	}
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	if code, page := v.See("/rounds/shore-2027/start"); code != 200 || !webtest.Contains(page, "You have sent another") ||
		webtest.Contains(page, ">Begin<") {
		t.Errorf("the page: %d", code)
	}
	if code, page := v.Submit("/rounds/shore-2027/start", url.Values{"title": {"Another"}}); code != 422 ||
		!webtest.Contains(page, "You have sent another") {
		t.Errorf("a hand-made request: %d", code)
	}
	if code, _ := v.Submit("/applications/"+c.Ref+"/withdraw",
		url.Values{"sure": {"yes"}, "password": {programtest.Password}}); code != 303 {
		t.Fatalf("withdrawn: %d", code)
	}
	if code, _ := v.Submit("/rounds/shore-2027/start", url.Values{"title": {"Another"}}); code != 303 {
		t.Errorf("after it was withdrawn: %d", code)
	}
}
