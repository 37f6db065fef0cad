package web_test

import (
	"fmt"
	"testing"

	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// What a save asks of PostgreSQL: one look-up to let it in; the rows locked,
// the case read whole, the answer, the trail and the standing written in a
// transaction; and whether somebody is to be told. The reply is drawn from the
// walk that was kept, not read again.
func TestASaveInNineStatements(t *testing.T) {
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	header := map[string]string{"Accept": "application/json", "X-Form-Token": v.Token()}
	version := 0
	if err := h.DB.Get(&version, `SELECT version FROM answer WHERE entry_id = $1 AND question = 'describe'`,
		c.EntryID); err != nil {
		t.Fatal(err)
	}
	least := int64(99) // something else of the program may ask meanwhile
	for i, value := range []string{"Reed beds.", "Reed beds, and a sluice.", "Reed."} {
		before := h.DB.Statements.Load()
		code, body := v.SendJSON("/applications/"+c.Ref+"/answers", "application/json",
			fmt.Sprintf(`{"section":"work","edits":[{"question":"describe","version":%d,"edit":"statements-%d","value":"%s"}]}`,
				version+i, i, value), header)
		if code != 200 {
			t.Fatal(code, body)
		}
		least = min(least, h.DB.Statements.Load()-before)
	}
	if least > 9 {
		t.Errorf("a save asks %d statements, at most 9 wanted", least)
	}
}
