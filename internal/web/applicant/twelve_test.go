package applicant_test

import (
	"encoding/base64"
	"fmt"
	"strings"
	"testing"

	"ulvant/core/slot"
	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Twelve pictures dropped at once, put in order by keys and described, at a desk and on a
// phone: all arrive, the order and what is written beside each are kept, nothing stands
// wider than the screen, and axe-core finds nothing.
func TestTwelvePicturesDroppedAtOnce(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), programtest.WithSlot("photos", "Photographs",
		slot.Limits{Kinds: []slot.Kind{slot.Picture}, FilesMost: 12, SizeMost: 1 << 20, Details: []string{"Title"}}))
	for _, width := range []int64{1280, 390} {
		email := fmt.Sprintf("w%d@corvoe.example", width)
		c := h.Draft(email)
		p := webtest.In(t, webtest.Window(t, base))
		p.Ok(p.Size(width, 844))
		p.SignsIn(email)
		p.Goes("/applications/" + c.Ref + "/sections/materials")
		p.Waits(`document.querySelector('#q-photos [type=file]').multiple`)
		drop := fmt.Sprintf(`(() => {
			const bytes = Uint8Array.from(atob('%s'), x => x.charCodeAt(0)), d = new DataTransfer()
			for (let i = 1; i <= 12; i++) d.items.add(new File([bytes], 'photo-' + i + '.png', { type: 'image/png' }))
			document.querySelector('#q-photos').dispatchEvent(new DragEvent('drop', { dataTransfer: d, bubbles: true, cancelable: true }))
			return true
		})()`, base64.StdEncoding.EncodeToString([]byte(picture(t, 60))))
		_, err := browser.Eval[bool](p.Person, drop)
		p.Ok(err)
		p.Waits(`document.querySelectorAll('#q-photos .file[data-opening]').length === 12`)
		h.Drain()
		p.Waits(`[...document.querySelectorAll('#q-photos img')].length === 12`)
		p.Waits(`!document.querySelectorAll('#q-photos [data-grip]')[11].hidden`)
		_, err = browser.Eval[bool](p.Person, `(() => {
			const g = document.querySelectorAll('#q-photos [data-grip]')[11]
			for (let i = 0; i < 11; i++) g.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowUp', bubbles: true, cancelable: true }))
			return true
		})()`)
		p.Ok(err)
		p.Waits(`!document.querySelector('#q-photos[data-ordering]')`)
		for i := range 12 {
			_, err = browser.Eval[bool](p.Person, fmt.Sprintf(`(() => {
				const x = document.querySelectorAll('#q-photos .file .parts input.in')[%d]
				x.value = 'View %d'; x.dispatchEvent(new Event('input', { bubbles: true })); x.dispatchEvent(new Event('change', { bubbles: true }))
				return true
			})()`, i, i+1))
			p.Ok(err)
		}
		p.Kept()
		var kept []string
		if err := h.DB.Select(&kept, `SELECT m.name || ': ' || a.value FROM material m
			JOIN answer a ON a.entry_id = m.entry_id AND a.question = 'photos' AND a.row_key = 'f' || m.id
			WHERE m.entry_id = $1 AND m.removed_at IS NULL ORDER BY m.place, m.id`, c.EntryID); err != nil {
			t.Fatal(err)
		}
		if len(kept) != 12 || kept[0] != "photo-12.png: View 1" || kept[1] != "photo-1.png: View 2" ||
			kept[11] != "photo-11.png: View 12" {
			t.Errorf("at %d: %s", width, strings.Join(kept, ", "))
		}
		wide, err := browser.Eval[bool](p.Person, `document.documentElement.scrollWidth > innerWidth`)
		p.Ok(err)
		if wide {
			t.Errorf("at %d something is wider than the screen", width)
		}
		p.Sound()
	}
}
