package designer_test

import (
	"context"
	"fmt"
	"net/url"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"ulvant/core/access"
	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/internal/browser"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/round"
	"ulvant/internal/web/webtest"
)

// keyboard is somebody who uses nothing but keys.
type keyboard struct{ webtest.Play }

func (k keyboard) key(keys string, held ...chromedp.Modifier) {
	k.T.Helper()
	k.Ok(k.Key(keys, held...))
}
func (k keyboard) to(sel string) { k.T.Helper(); k.Ok(k.TabTo(sel)) }

// write into a field that Tab leads to, in place of what is there.
func (k keyboard) write(sel, text string) {
	k.T.Helper()
	k.to(sel)
	k.key("a", chromedp.ModifierCtrl)
	k.key(text)
}

// pick an option of a select by typing how it begins, and leave it.
func (k keyboard) pick(sel, option string) {
	k.T.Helper()
	for range 3 { // on a busy machine so long may lie between two letters that a browser takes them for two words
		k.to(sel)
		k.key(option)
		on, err := browser.Eval[string](k.Person, fmt.Sprintf(`document.querySelector(%q)?.selectedOptions[0]?.text ?? ''`,
			sel))
		k.Ok(err)
		if strings.HasPrefix(on, option) {
			break
		}
	}
	k.key("\t")
}

// settled waits until what was set is kept and the page is drawn again.
func (k keyboard) settled(condition string) {
	k.T.Helper()
	k.Waits(`document.getElementById('designer')?.dataset.state !== 'saving' && (` + condition + `)`)
}

func working(t *testing.T, h *programtest.House, key string) *form.Design {
	t.Helper()
	r, err := h.Rounds.Find(t.Context(), h.DB, key)
	if err != nil {
		t.Fatal(err)
	}
	d, err := round.Decode(r.Working)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// A fellowship whose field of study changes its materials and limits, built by
// keyboard alone: from the pattern, with a question, a condition, a case of
// limits, an order, undo and redo; then opened.
func TestAFellowshipByKeyboardAlone(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	webtest.Officer(h)
	k := keyboard{webtest.In(t, webtest.Window(t, base))}
	k.SignsIn("neda@ostrel-trust.example")
	k.Reads("Your move")
	k.to("a[href='/office/new-round']")
	k.key("\r")
	k.Waits(`document.querySelector('[name=kind]')`)
	k.to("[name=kind]")
	k.key(kb.ArrowDown + kb.ArrowDown + kb.ArrowDown + kb.ArrowDown + kb.ArrowDown + kb.ArrowDown)
	k.Waits(`document.querySelector('[name=kind]:checked').value === 'fellowship'`)
	k.write("[name=name]", "Night Study, 2027")
	k.write("[name=programme]", "Night Study")
	k.write("[name=prefix]", "NST")
	k.write("[name=about]", "A year awake.")
	k.to("[name=closes]")
	k.key("\r") // the dates stand as they are offered
	k.Reads("not open to anyone yet")

	// a question in the section of the plan
	k.to("[data-path='sections/plan'] a")
	k.key("\r")
	k.Waits(`document.readyState === 'complete' && document.querySelector('#m-label')?.value === 'The plan'`)
	k.key("n")
	k.Waits(`document.activeElement?.name === 'label'`)
	k.key("Which lamps must stay off?")
	k.pick("[data-addhere] [name=kind]", "Long")
	k.to("[data-addhere] .btn")
	k.key("\r")
	k.Waits(`document.querySelector('#m-label')?.value === 'Which lamps must stay off?'`)

	// asked when the field is bats
	k.to("[name=do][value='asked:test']")
	k.key("\r")
	k.Waits(`document.querySelector('[name="asked.0.of"]')`)
	k.pick("[name='asked.0.of']", "Field")
	k.settled(`document.querySelector('[name="asked.0.value"]')`)
	k.pick("[name='asked.0.value']", "Bats")
	k.settled(`[...document.querySelectorAll('.sentence')].some(s => s.innerText === '“Field of study” is Bats.')`)

	// fewer words for some
	k.write("[name='limits.else.words']", "200")
	k.key("\t")
	k.settled(`document.querySelector('.previewbox').innerText.includes('200 words')`)
	k.to("[name=do][value='limits:case']")
	k.key("\r")
	k.Waits(`document.querySelector('[name="limits.0.if.0.of"]')`)
	k.pick("[name='limits.0.if.0.of']", "Keywords")
	k.settled(`document.querySelector('[name="limits.0.if.0.value"]')`)
	k.pick("[name='limits.0.if.0.value']", "Light")
	k.settled(`[...document.querySelectorAll('.sentence')].some(s => s.innerText === '“Keywords” includes Light.')`)
	k.write("[name='limits.0.then.words']", "320")
	k.key("\t")
	k.Waits(`document.getElementById('designer')?.dataset.state !== 'saving' && document.querySelector('[name="was:limits"]')?.value.includes('320')`)

	key := "night-study-2027"
	q := find(working(t, h, key), "which-lamps-must-stay-off")
	want := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "field"}, Rel: condition.Is,
		Value: &condition.Value{Text: "bats"}}}
	if q == nil || q.Kind != form.Long || webtest.ToJSON(q.Asked) != webtest.ToJSON(want) || q.Limits.Else.Words != 200 ||
		len(q.Limits.When) != 1 || q.Limits.When[0].Then.Words != 320 {
		t.Fatalf("kept is %s", webtest.ToJSON(q))
	}

	// up one place; undone, and done again
	before := order(working(t, h, key), "plan")
	k.key(kb.ArrowUp, chromedp.ModifierAlt)
	// keys count once the page's script is there
	k.Waits(`document.readyState === 'complete' && document.querySelector('.plainlist .undone, ol.plainlist li')?.innerText.includes('moved')`)
	moved := order(working(t, h, key), "plan")
	if moved == before {
		t.Errorf("the order is still %s", moved)
	}
	k.key("z", chromedp.ModifierCtrl)
	k.Reads("Undone: moved")
	if got := order(working(t, h, key), "plan"); got != before {
		t.Errorf("undone it is %s, want %s", got, before)
	}
	k.key("z", chromedp.ModifierCtrl, chromedp.ModifierShift)
	k.Reads("Done again: moved")
	if got := order(working(t, h, key), "plan"); got != moved {
		t.Errorf("done again it is %s, want %s", got, moved)
	}
	k.to("#publish")
	k.key("\r")
	k.Reads("before it opens")
	k.to("#publish .btn")
	k.key("\r")
	k.Reads("The round is published")
}

func find(d *form.Design, key form.Key) *form.Question {
	for i := range d.Sections {
		for j := range d.Sections[i].Questions {
			if d.Sections[i].Questions[j].Key == key {
				return &d.Sections[i].Questions[j]
			}
		}
	}
	return nil
}

func order(d *form.Design, section form.Key) string {
	var out []string
	for _, s := range d.Sections {
		if s.Key == section {
			for _, q := range s.Questions {
				out = append(out, string(q.Key))
			}
		}
	}
	return strings.Join(out, " ")
}

// Two officers at once: different members of one question both go through; the
// same member changed by both is refused to the second, and nothing is lost.
func TestTwoOfficersAtOnce(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	id := h.OpenRound(webtest.Officer(h), nil)
	other := h.Person("sam@ostrel-trust.example", "Sam Orrin")
	h.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, other.ID, access.Held{Role: access.RunsRounds})
	})
	first, second := webtest.Visit(t, base).As("neda@ostrel-trust.example"), webtest.Visit(t,
		base).As("sam@ostrel-trust.example")
	const page, at = "/office/rounds/shore-2027/design", "sections/place/questions/site"
	set := func(v *webtest.Visitor, member, was, to string) (int, string) {
		return v.Submit(page, url.Values{"path": {at}, "was:" + member: {webtest.ToJSON(was)}, member: {to}})
	}
	if code, body := set(first, "label", "Name of the site", "What the site is called"); code != 303 {
		t.Fatal(code, body)
	}
	if code, body := set(second, "help", "As local people call it.", "As the map has it."); code != 303 {
		t.Fatalf("another member: %d %s", code, body)
	}
	code, body := set(second, "label", "Name of the site", "Site")
	if code != 409 || !webtest.Contains(body, "somebody else changed the same thing") ||
		!webtest.Contains(body, `value="Site"`) ||
		!webtest.Contains(body, "What the site is called") {
		t.Errorf("the same member: %d; both texts must stand on the page", code)
	}
	q := find(working(t, h, "shore-2027"), "site")
	if q.Label != "What the site is called" || q.Help != "As the map has it." {
		t.Errorf("kept: %q, %q", q.Label, q.Help)
	}
	// each undoes their own; what was overlaid is not undone
	h.Act(other.ID, func(ctx context.Context, tx *db.Tx) error {
		_, err := h.Rounds.Edit(ctx, tx, id, at, []design.Op{{Do: design.Set, Path: at + "/label",
			Value: []byte(`"The site"`)}})
		return err
	})
	if code, body := first.Submit(page+"/undo", url.Values{}); code != 409 ||
		!webtest.Contains(body, "undoing would lose their change") {
		t.Errorf("undo over another's change: %d", code)
	}
	if code, _ := second.Submit(page+"/undo", url.Values{}); code != 303 {
		t.Errorf("undo of one's own: %d", code)
	}
}

// What comes from outside is taken whole or refused whole, every fault by place.
func TestImportsAreRefusedWhole(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	v := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	before := webtest.ToJSON(working(t, h, "shore-2027"))
	send := func(what, content string) (int, string) {
		return v.Upload("/office/rounds/shore-2027/design/import", map[string]string{"what": what}, "file", content)
	}
	later := strings.Replace(before, `"schema":1`, `"schema":2`, 1)
	dangling := strings.Replace(before, `"answer":"site-access"`, `"answer":"nobody"`, 1)
	for _, c := range []struct{ what, content, says string }{
		{"design", "not JSON", "this is not JSON"},
		{"design", later, "schema 2"},
		{"design", strings.Repeat("[", 100), "nested more than"},
		{"design", dangling, "nothing is called &#34;nobody&#34;"},
		{"design", `{"schema":1,"colour":"green"}`, "unknown field"},
		{"design", `"` + strings.Repeat("x", 5<<20) + `"`, "at most"},
		{"questions", "section,key,label\nplace,nobody,Hello\nnowhere,,New one", "Line 2: there is no question"},
		{"questions", "section,key,label\nplace,site,\"broken", "this is not CSV"},
		{"awards", "label,purse\nCup,many\n", "Line 2: “many” is not a sum"},
	} {
		code, body := send(c.what, c.content)
		if code != 422 || !webtest.Contains(body, c.says) {
			t.Errorf("%s %.40q: %d, want to be told %q", c.what, c.content, code, c.says)
		}
	}
	if webtest.ToJSON(working(t, h, "shore-2027")) != before {
		t.Error("something was taken over")
	}
	good := "section,key,kind,label,help\nplace,site,short,The site,As the map has it.\nplace,,yesno,Is there a gate?,\n"
	if code, body := send("questions", good); code != 303 {
		t.Errorf("good questions: %d %s", code, body)
	}
	d := working(t, h, "shore-2027")
	if q := find(d, "site"); q.Label != "The site" || q.Help != "As the map has it." || find(d, "is-there-a-gate") == nil {
		t.Errorf("the questions did not come back: %s", webtest.ToJSON(q))
	}
}

// Every kind of question in the browser: what is typed is kept, and the page
// says what the server makes of it.
func TestEveryKindInTheBrowser(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		d.Lists = []form.List{{Key: "fields", Label: "Fields",
			Items: []form.Item{{Code: "bats", Label: "Bats"}, {Code: "owls", Label: "Owls"}}}}
		d.Tables = []form.Table{{Key: "grades", Label: "Grades",
			Columns: []form.Column{{Key: "step", Label: "step", Numbers: true}}, Rows: []form.Row{{Key: "a", Label: "A",
				Cells: []string{"3.33"}}, {Key: "b", Label: "B", Cells: []string{"3.67"}}}}}
		ask := func(key form.Key, kind form.Kind, change func(*form.Question)) form.Question {
			q := design.NewQuestion(kind, string(key))
			q.Key = key
			if change != nil {
				change(&q)
			}
			return q
		}
		two := []form.Option{{Key: "one", Label: "One"}, {Key: "two", Label: "Two"}}
		d.Sections = append([]form.Section{{Key: "kinds", Label: "Kinds", Questions: []form.Question{
			ask("several", form.Several, func(q *form.Question) { q.Options = two }),
			ask("words", form.Keywords, func(q *form.Question) { q.List, q.Proposals = "fields", true }),
			ask("order", form.Ranked, func(q *form.Question) { q.Options = two }),
			ask("grade", form.Grade, func(q *form.Question) {
				q.Table = "grades"
				q.NonAnswers = []form.NonAnswer{form.ToFollow, form.NotApply}
			}),
			ask("phone", form.Phone, nil),
			ask("people", form.Rows, func(q *form.Question) {
				q.Columns = []form.Question{ask("who", form.Short, nil), ask("paid", form.Money, nil)}
			}),
			ask("first", form.Address, nil),
			ask("second", form.Address, func(q *form.Question) { q.CopyOf = "first" }),
		}}}, d.Sections...)
	})
	c := h.Draft("imre@corvoe.example")
	p := webtest.In(t, webtest.Window(t, base))
	p.SignsIn("imre@corvoe.example")
	p.Goes("/applications/" + c.Ref + "/sections/kinds")
	p.Presses("input[name=several][value=two]")
	p.Presses("input[name=several][value=one]")
	for _, word := range []string{"owls", "Newts"} {
		p.Fills("[data-adds=words]", word)
		p.Presses("[data-adding=words]")
	}
	p.Fills("[name='order::place-a']", "two")
	p.Fills("[name=grade]", "3.5")
	p.Reads("3.5, which counts as 3.67")
	p.Fills("[name=phone]", "01 222 2222")
	p.Reads("Kept as +35312222222")
	p.Fills("[name='people:r0001:who']", "Ann")
	p.Fills("[name='people:r0001:paid']", "1,200")
	p.Presses("[data-q=people] [data-addrow]")
	p.Fills("[name='people:r0003:who']", "Bo")
	p.Fills("[name='people:r0003:paid']", "300.50")
	p.Waits(`document.querySelector('[data-q=people] tfoot').innerText.includes('€1,500.50')`)
	for part, v := range map[string]string{"street": "1 Quay", "town": "Corvoe", "postcode": "OI4"} {
		p.Fills(fmt.Sprintf("[name='first::%s']", part), v)
	}
	p.Presses("[data-q=second] [data-copyfrom]")
	p.Kept()
	got := map[string]string{}
	rows, err := h.Cases.Answers(t.Context(), h.DB, c.EntryID)
	if err != nil {
		t.Fatal(err)
	}
	for _, a := range rows {
		got[fmt.Sprintf("%s:%s:%s", a.Question, a.Row, a.Column)] = a.Value
	}
	for at, want := range map[string]string{"several::": "one\ntwo", "words::": "owls\nnew: Newts",
		"order::place-a": "two", "grade::": "3.5", "people:r0003:paid": "300.50", "second::town": "Corvoe"} {
		if got[at] != want {
			t.Errorf("%s is kept as %q, want %q", at, got[at], want)
		}
	}
	p.Fills("[name='grade!non']", "to follow")
	p.Kept()
	var non string
	if err := h.DB.Get(&non, `SELECT non FROM answer WHERE question = 'grade'`); err != nil || non != "to follow" {
		t.Errorf("kept instead of a grade: %q %v", non, err)
	}
	// the same section without scripts
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	path := "/applications/" + c.Ref + "/sections/kinds"
	_, page := v.See(path)
	version := webtest.RegexpValue(t, page, `name="several!version" value="(\d+)"`)
	words := webtest.RegexpValue(t, page, `name="words!version" value="(\d+)"`)
	code, body := v.Submit(path, url.Values{"several": {"two"}, "several!version": {version}, "words": {"owls"},
		"words!add": {"Bats"}, "words!version": {words}})
	if code != 303 {
		t.Fatal(code, body)
	}
	if got := webtest.KeptText(t, h, c, "several"); got != "two" {
		t.Errorf("by a plain form several is %q", got)
	}
	if got := webtest.KeptText(t, h, c, "words"); got != "owls\nbats" {
		t.Errorf("by a plain form the keywords are %q", got)
	}
}

// On a slow line the page is drawn again while the next field is being typed
// into: what is typed stays, and is kept when the field is left; so is what was
// typed and left before the page was drawn.
func TestTypingOutlivesARedraw(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	p := webtest.In(t, webtest.Window(t, base))
	p.Ok(p.As("neda@ostrel-trust.example", programtest.Password))
	p.Ok(p.Open("/office/rounds/shore-2027/design?path=rules/land"))
	k := keyboard{p}
	p.Waits(`document.readyState === 'complete'`)
	if _, err := browser.Eval[bool](p.Person,
		`(() => { const send = XMLHttpRequest.prototype.send; XMLHttpRequest.prototype.send = function (...a) { setTimeout(() => send.apply(this, a), 700) }
		// "no" is typed and left in the moment before the page is drawn again
		window.addEventListener('htmx:beforeSwap', () => { const no = document.querySelector('#m-no'); no.value = 'Ask the owner first' }, { capture: true, once: true })
		return true })()`); err != nil {
		t.Fatal(err)
	}
	k.write("#m-label", "Leave for the work")
	k.key("\t")
	k.write("#m-yes", "You may work there, and ")
	p.Waits(`document.querySelector('[name="was:label"]')?.value.includes('Leave for the work')`) // drawn again
	k.key("we saw it")
	k.key("\t")
	p.Waits(`document.querySelector('[name="was:yes"]')?.value.includes('You may work there, and we saw it') && document.querySelector('[name="was:no"]')?.value.includes('Ask the owner')`)
	for _, r := range working(t, h, "shore-2027").Rules {
		if r.Key == "land" && (r.Label != "Leave for the work" || r.Yes != "You may work there, and we saw it" ||
			r.No != "Ask the owner first") {
			t.Errorf("kept are %q, %q and %q", r.Label, r.Yes, r.No)
		}
	}
}
