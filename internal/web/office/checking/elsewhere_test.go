package checking_test

import (
	"context"
	"net/url"
	"strconv"
	"testing"

	"ulvant/core/access"
	"ulvant/demo"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Whoever checks one round alone learns that somebody belongs to a case of another
// round, and that a text is like one there; neither whose it is nor what it says.
func TestWhatIsAlikeElsewhereStaysThere(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	_, base := webtest.Serve(t, h)
	var text struct {
		ID                          int64
		Ref, Title, Lead, Here, Key string
		Round                       int64 `db:"round_id"`
		There                       int64
	}
	if err := h.DB.Get(&text, `
		SELECT l.id, x.ref, x.title, o.name AS lead, y.ref AS here, r.key, y.round_id, x.id AS there
		FROM likeness l JOIN prose p ON p.id = l.one JOIN prose q ON q.id = l.other
		JOIN application x ON x.id = p.application_id JOIN account o ON o.id = p.lead_id
		JOIN application y ON y.id = q.application_id JOIN round r ON r.id = y.round_id WHERE x.round_id <> y.round_id LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	// somebody of two cases of the competition belongs to that far case as well
	h.Crowd(`UPDATE party SET application_id = $1, place = 'planted' WHERE id = (SELECT c.other FROM connection c JOIN party p ON p.id = c.one JOIN party q ON q.id = c.other
		WHERE p.application_id IS NOT NULL AND q.application_id IS NOT NULL LIMIT 1)`, text.There)
	var near struct {
		ID  int64
		Key string
	}
	if err := h.DB.Get(&near, `SELECT r.id, r.key FROM connection c JOIN party p ON p.id = c.one JOIN party q ON q.id = c.other
		JOIN application a ON a.id = p.application_id JOIN round r ON r.id = a.round_id WHERE q.application_id = $1`, text.There); err != nil {
		t.Fatal(err)
	}
	one := h.Person("one.round@tarl.example", "Una Rowe")
	h.Act(0, func(ctx context.Context, tx *db.Tx) error {
		for _, round := range []int64{text.Round, near.ID} {
			if err := h.People.GiveRole(ctx, tx, one.ID,
				access.Held{Role: access.Checks, Scope: access.Scope{Round: round}}); err != nil {
				return err
			}
		}
		return nil
	})
	una := webtest.Visit(t, base).As("one.round@tarl.example")
	whole := webtest.Visit(t, base)
	whole.Submit("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"}, "password": {demo.Password}})
	side := "/office/rounds/" + text.Key + "/checks/texts/" + strconv.FormatInt(text.ID, 10)
	for path, says := range map[string]string{
		"/office/rounds/" + text.Key + "/checks/texts": "An application elsewhere",
		side: "Its text stays with those who look after that round",
		"/office/rounds/" + near.Key + "/checks/people": "“somebody”",
	} {
		code, page := una.See(path)
		if code != 200 || !webtest.Contains(page, says) {
			t.Errorf("%s answers %d and does not say %q", path, code, says)
		}
		for _, told := range []string{text.Ref, text.Title, text.Lead} {
			if webtest.Contains(page, told) {
				t.Errorf("%s tells %q", path, told)
			}
		}
		if code, page := whole.See(path); code != 200 || !webtest.Contains(page, text.Ref) {
			t.Errorf("whoever sees all is answered %d at %s without %s", code, path, text.Ref)
		}
	}
}
