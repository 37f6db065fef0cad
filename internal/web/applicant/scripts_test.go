package applicant_test

import (
	"bytes"
	"context"
	"encoding/json"
	"html"
	"net/http"
	"strconv"
	"strings"
	"testing"

	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// What people of all kinds type, and what gets pasted, comes back as it was, is
// shown as text and never as markup, and goes into the PDF copy.
func TestWhatPeopleType(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	for i, c := range []struct{ what, text string }{
		{"right to left", "نزرع القصب على الشاطئ"},
		{"two directions in one line", "The reed (القصب) and the rush \u2067שלום\u2069."},
		{"marks that override the direction", "plan\u202egpj.exe"},
		{"emoji of several parts", "👩‍🌾🏽 plants 🌾, 🇮🇪 pays, 1️⃣ hectare"},
		{"combining marks", "Ta\u0301borova\u0301 a\u0308o\u0308u\u0308 Z̸a̸l̸g̸o̸"},
		{"no blanks between words", "我们种芦苇,用泥炭筑坝。"},
		{"markup", `<script>alert(1)</script> & "quotes" 'single' </textarea><b>`},
		{"template and shell", "{{.Password}} ${HOME} `id` %s %n"},
		{"control characters", "bell\x07 escape\x1b[31m tab\tend"},
		{"line ends of all kinds", "one\r\ntwo\rthree\nfour\u2028five"},
		{"blanks of all kinds", "one\u00a0two\u2009three\u3000four\u200bfive\ufeffsix"},
		{"private and unassigned", "\ue000 \U000e0041 \U0010ffff"},
		{"a very long word", strings.Repeat("ab", 5_000)},
	} {
		lead := "p" + strconv.Itoa(i) + "@corvoe.example"
		k := h.Ready(lead)
		v := webtest.Visit(t, base).As(lead)
		raw, err := json.Marshal(map[string]any{"section": "work",
			"edits": []map[string]any{{"question": "describe", "version": 1, "edit": "typed-1", "value": c.text}}})
		if err != nil {
			t.Fatal(err)
		}
		code, body := v.SendJSON("/applications/"+k.Ref+"/answers", "application/json", string(raw),
			map[string]string{"Accept": "application/json", "X-Form-Token": v.Token()})
		if code != 200 || webtest.Contains(body, `"fault":"`) {
			t.Errorf("%s: %d %s", c.what, code, body)
			continue
		}
		if got := webtest.KeptText(t, h, k, "describe"); got != strings.ReplaceAll(c.text, "\r\n",
			"\n") { // as forms send and pages show it
			t.Errorf("%s: kept as %q", c.what, got)
		}
		_, page := v.See("/applications/" + k.Ref + "/sections/work")
		if shown := html.EscapeString(c.text); !strings.Contains(strings.NewReplacer("\r\n", "\n", "\r",
			"\n").Replace(html.UnescapeString(page)), strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(c.text)) {
			t.Errorf("%s: the page does not show %q", c.what, shown)
		}
		if webtest.Contains(page, "<script>alert") || webtest.Contains(page, "</textarea><b>") {
			t.Errorf("%s is taken for markup", c.what)
		}
		h.Act(k.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, k); return err })
		res, err := v.Get(base + "/applications/" + k.Ref + "/copy")
		if err != nil {
			t.Fatal(err)
		}
		var pdf bytes.Buffer
		pdf.ReadFrom(res.Body)
		res.Body.Close()
		if res.StatusCode != http.StatusOK || !bytes.HasPrefix(pdf.Bytes(), []byte("%PDF-")) {
			t.Errorf("%s: the copy: %d", c.what, res.StatusCode)
		}
	}
}
