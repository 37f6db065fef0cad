package applicant_test

import (
	"context"
	"regexp"
	"testing"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A paper that was to follow, on its page: what is said beside it stays when the
// file is refused, and what came can be read there.
func TestAPaperToFollowOnItsPage(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		closes, _ := d.Moment(form.Closes)
		q := form.Question{Key: "permit", Kind: form.File, Label: "The permit", Nature: form.Fact, Blank: form.Required,
			Seen: form.ToReaders, NonAnswers: []form.NonAnswer{form.ToFollow},
			FollowBy: &form.Day{On: closes.At.Date.AddDays(7)}}
		q.Limits.Else.Slot = &slot.Limits{Kinds: []slot.Kind{slot.PDF}, Details: []string{"Its number"},
			Ticks: []string{"It is signed."}}
		d.Sections = []form.Section{{Key: "all", Label: "All", Questions: []form.Question{q}}}
		d.Figures, d.Request, d.Listed, d.Rules = nil, "", form.Listing{}, nil
		d.Field = ""
	})
	c := h.Draft("imre@corvoe.example")
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		if _, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: "permit"}, EditID: "to-follow",
			Non: form.ToFollow}}); err != nil {
			return err
		}
		_, err := h.Intake.Send(ctx, tx, c)
		return err
	})
	imre := webtest.Visit(t, base).As("imre@corvoe.example")
	page := "/applications/" + c.Ref + "/to-follow"
	if _, body := imre.See(page); !webtest.Contains(body, "The permit") || !webtest.Contains(body, "Its number") ||
		!webtest.Contains(body, "It is signed.") {
		t.Fatal("the page does not ask for it")
	}
	beside := map[string]string{string(form.DetailColumn(0)): "P 17", string(form.TickColumn(0)): "yes"}
	if code, body := imre.Upload(page+"/permit", beside, "permit.pdf", "no PDF"); code != 422 ||
		!webtest.Contains(body, "P 17") || !webtest.Contains(body, "is not of a kind that is taken here") {
		t.Errorf("what is no PDF: %d", code)
	}
	if code, _ := imre.Upload(page+"/permit", beside, "permit.pdf", string(programtest.Plan)); code != 303 {
		t.Errorf("the permit: %d", code)
	}
	_, body := imre.See(page)
	at := regexp.MustCompile(`/applications/[^"]+/materials/\d+`).FindString(body)
	if code, file := imre.See(at); code != 200 || len(file) != len(programtest.Plan) {
		t.Errorf("read at %q: %d", at, code)
	}
}
