package journey

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"ulvant/core/form"
	"ulvant/core/form/kindtest"
	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/webtest"
)

// The page adds a budget up as the server does: every figure that is worked out,
// of some hundred budgets in each of several designs, to the last sign.
func TestTheBudgetAddsUpInThePageAsOnTheServer(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), programtest.FullBudget)
	c := h.Draft("imre@corvoe.example")
	imre := webtest.In(t, webtest.Window(t, base))
	imre.SignsIn("imre@corvoe.example")
	imre.Goes("/applications/" + c.Ref + "/sections/budget-section")
	r := rand.New(rand.NewPCG(4, 2))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	for name, set := range map[string]func(*form.Design, *form.Question){
		"all that a line can hold": func(*form.Design, *form.Question) {},
		"plain":                    func(_ *form.Design, q *form.Question) { q.Costing, q.Options = nil, nil },
		"one pays the rest, borne by the applicant": func(_ *form.Design, q *form.Question) {
			q.Costing.Sources, q.Costing.Indirect.ByOwn, q.Costing.Indirect.OfAsked = nil, true, true
		},
		"capped bases": func(_ *form.Design, q *form.Question) {
			q.Costing.Indirect.Bases = []form.Base{{Heading: "a", LineMost: 900_00}, {Heading: "b", PartnerMost: 5_000_00}}
			q.Limits.Else.InKindMost = 10
		},
		"no decimals": func(d *form.Design, _ *form.Question) { d.Currency = "JPY" },
	} {
		d := kindtest.Design(form.Budget)
		q := &d.Sections[len(d.Sections)-1].Questions[2]
		q.Costing.Dated, q.Costing.Quotes = false, nil
		set(d, q)
		f, err := form.Compile(d)
		if err != nil {
			t.Fatal(err)
		}
		q = f.Question(q.Key)
		type given struct {
			Rows map[string]map[form.Key]string
			Want map[string]string
		}
		var cases []given
		rules := ""
		for range 150 {
			x := &form.Filled{Answers: map[form.Place]form.Answer{}}
			g := given{Rows: map[string]map[form.Key]string{}}
			for n := range 1 + r.IntN(6) {
				sum := func() string {
					return pick(
						"",
						"0",
						fmt.Sprint(r.IntN(9000)),
						fmt.Sprintf("%d.%02d", r.IntN(90), r.IntN(100)),
						"1,234.50",
						"€1.234,56",
						"12 345",
						".5",
						"1,23",
						"much",
						"0.500",
						"9999999999999",
						"-3",
						"EUR 7",
					)
				}
				if r.IntN(3) > 0 { // mostly sums that can be read
					sum = func() string { return fmt.Sprintf("%d.%02d", r.IntN(9000), r.IntN(100)) }
					if d.Currency == "JPY" {
						sum = func() string { return fmt.Sprint(r.IntN(9000)) }
					}
				}
				row := map[form.Key]string{"item": pick("A", "B", "B", ""), "heading": pick("a", "b", "b", ""),
					"quantity": pick(
						"",
						"2",
						"0.5",
						"9,000",
						"1.234,5",
						"1.125",
						"some",
						"1,0000",
						"0,125",
					), "unit": "day",
					"each": sum(), "cost": sum(), "from-us": sum(), "own": sum(), "promised": sum(), "applied": sum(),
					"in-kind": sum(), "gives": pick("", "", "boat"), "period": pick("y1", "y2", ""),
					"partner": pick("trust", "club", ""), "payer": pick("own money", "in kind", "")}
				for k := range row {
					if !slices.Contains(f.Cells(q), k) {
						delete(row, k)
					}
				}
				key := form.RowKey(n + 1)
				g.Rows[key] = row
				for k, v := range row {
					x.Answers[form.Place{Question: q.Key, Row: key, Column: k}] = form.Answer{Raw: v}
				}
			}
			drawn := field.New(f, x, f.Walk(x), q, nil).Costs
			rules, g.Want = drawn.Rules, drawn.Sums
			cases = append(cases, g)
		}
		raw, err := json.Marshal(cases)
		if err != nil {
			t.Fatal(err)
		}
		headings, _ := json.Marshal(q.Options)
		bad, err := browser.Eval[string](imre.Person, `(async () => {
			const { line, sums } = await import(document.querySelector('script[src*="workspace.js"]').src.replace('workspace.js', 'costs.js'))
			const rules = `+rules+`, headings = (`+string(headings)+` ?? []).map(o => o.key)
			for (const c of `+string(raw)+`) {
				const rows = Object.keys(c.Rows).sort().map(k => [k, line(col => c.Rows[k][col] ?? '', rules)]).filter(r => r[1])
				const { out } = sums(rows, headings, rules)
				for (const k of new Set([...Object.keys(out), ...Object.keys(c.Want)])) {
					if ((out[k] ?? '') !== (c.Want[k] ?? '')) return k + ': the page says "' + out[k] + '", the server "' + c.Want[k] + '" of ' + JSON.stringify(c.Rows)
				}
			}
			return ''
		})()`)
		if err != nil || bad != "" {
			t.Errorf("%s: %v %s", name, err, bad)
		}
	}
}

// The grid as somebody uses it who comes from a spreadsheet: a block is pasted,
// a column filled down, all of it taken back; arrows move; an empty line stands
// ready; what is typed is on the server, and its faults stand beside it.
func TestTheGridOfABudget(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), programtest.FullBudget)
	c := h.Draft("imre@corvoe.example")
	imre := webtest.In(t, webtest.Window(t, base))
	imre.SignsIn("imre@corvoe.example")
	section := "/applications/" + c.Ref + "/sections/budget-section"
	imre.Goes(section)
	cell := func(row, col string) string { return fmt.Sprintf(`[name="budget:%s:%s"]`, row, col) }
	says := func(sum, text string) {
		t.Helper()
		imre.Waits(fmt.Sprintf(`document.querySelector('[data-sum=%q]').textContent === %q`, sum, text))
	}
	value := func(row, col, text string) {
		t.Helper()
		imre.Waits(fmt.Sprintf(`document.querySelector(%q)?.value === %q`, cell(row, col), text))
	}
	paste := func(row, col, block string) {
		t.Helper()
		imre.Presses(cell(row, col))
		imre.Ok(
			imre.Do(
				chromedp.Evaluate[chromedp.Void](`(() => { const d = new DataTransfer(); d.setData('text/plain', ` +
					webtest.ToJSON(
						block,
					) + `); document.activeElement.dispatchEvent(new ClipboardEvent('paste', { clipboardData: d, bubbles: true, cancelable: true })) })()`),
			),
		)
	}
	// a block over names, whose, figures; the cost is worked out, so that column is passed over
	paste(
		"r0001",
		"item",
		"Warden\tTrust\t18\tmonth\t1400\t9\t14000\t11200\r\nTraining\ttrust\t2\tday\t550\t\t1,100\r\n\"Ferry, twice\"\tTram\t2\ttrip\t12.5\t\t25\r\n",
	)
	imre.Reads("Not offered here: Tram.")
	value("r0001", "partner", "trust")
	value("r0001", "each", "1,400")
	imre.Waits(`document.querySelectorAll('tbody[data-band=people] tr[data-row]').length === 4`) // and an empty one
	says("heading-people", "€26,325 · 89.8%")
	says("row-r0001", "25,200")
	// years filled down
	picks := func(row, col, v string) {
		t.Helper()
		imre.Ok(
			imre.Do(
				chromedp.Evaluate[chromedp.Void](
					fmt.Sprintf(`(() => { const s = document.querySelector(%q); s.focus(); s.value = %q
			s.dispatchEvent(new Event('input', { bubbles: true })); s.dispatchEvent(new Event('change', { bubbles: true })) })()`, cell(row, col), v),
				),
			),
		)
	}
	picks("r0001", "period", "y1")
	line := `[...document.querySelectorAll('tbody[data-band=people] tr[data-row]')].map(r => r.dataset.row)`
	rows, err := browser.Eval[[]string](imre.Person, line)
	imre.Ok(err)
	imre.Ok(imre.Do(chromedp.Focus(cell(rows[1], "period"))))
	imre.Ok(imre.Key("d", chromedp.ModifierCtrl))
	value(rows[1], "period", "y1")
	imre.Ok(imre.Key("d", chromedp.ModifierCtrl)) // it moved down
	value(rows[2], "period", "y1")
	imre.Ok(imre.Key("z", chromedp.ModifierCtrl))
	value(rows[2], "period", "")
	imre.Ok(imre.Key("z", chromedp.ModifierCtrl))
	value(rows[1], "period", "")
	// faults beside their line, once kept
	imre.Fills(cell("r0001", "from-us"), "14,420")
	imre.Reads("“Warden”: its parts come to €25,620, it costs €25,200.")
	imre.Waits(fmt.Sprintf(`document.querySelector(%q).classList.contains('bad')`, cell("r0001", "from-us")))
	imre.Ok(imre.Do(chromedp.Focus(cell("r0001", "from-us"))))
	imre.Ok(imre.Key(kb.ArrowDown))
	imre.Waits(fmt.Sprintf(`document.activeElement.name === 'budget:%s:from-us'`, rows[1]))
	imre.Ok(imre.Key(kb.Enter, chromedp.ModifierShift))
	imre.Waits(`document.activeElement.name === 'budget:r0001:from-us'`)
	imre.Ok(imre.Key("z", chromedp.ModifierCtrl))
	value("r0001", "from-us", "14,000")
	imre.Waits(`!document.body.innerText.includes('its parts come to €25,620')`)
	// the whole block is taken back by one key
	imre.Ok(imre.Key("z", chromedp.ModifierCtrl))
	imre.Ok(imre.Key("z", chromedp.ModifierCtrl))
	value("r0001", "item", "")
	imre.Ok(imre.Key("z", chromedp.ModifierCtrl))
	imre.Reads("There is nothing to take back.")
	// a block wider and longer than a budget
	wide := ""
	for range 520 {
		wide += "x\tTrust\t1\tday\t1\t\t1\t\t\t\t1\tPlant\tmore\tand more\n"
	}
	paste("r0002", "item", wide)
	imre.Reads("The block was wider than the grid: its last 2 columns were left out.")
	imre.Reads("A budget takes 499 lines")
	imre.Ok(imre.Key("z", chromedp.ModifierCtrl))
	imre.Waits(`document.querySelector('#workspace').dataset.state === 'kept'`)
	// a line moves with its heading
	imre.Fills(cell("r0001", "item"), "Boat")
	picks("r0001", "heading", "plant")
	imre.Waits(`document.querySelector('tbody[data-band=plant] [data-row=r0001]')`)
	imre.Kept()
	// the lines that were taken back are gone when the page is opened anew
	imre.Goes(section)
	imre.Waits(`document.querySelector('tbody[data-band=plant] [data-row=r0001]')`)
	imre.Waits(`document.querySelectorAll('#workspace tr[data-row]').length < 20`)
	if faults, err := imre.Accessible(); err != nil || len(faults) > 0 {
		t.Errorf("%v %v", faults, err)
	}
	// on a phone, one line at a time
	imre.Ok(imre.Size(390, 844))
	imre.Goes(section)
	open := `[...document.querySelectorAll('[data-row=r0001] td')].filter(td => td.offsetParent).length`
	imre.Waits(open + ` === 2`)
	imre.Presses(cell("r0001", "item"))
	imre.Waits(open + ` > 8`)
	imre.Waits(`document.documentElement.scrollWidth <= 390`)
}

// Two write one budget: each begins a line at the same moment, and both lines stay.
func TestTwoInOneGrid(t *testing.T) {
	t.Parallel()
	_, base, c := webtest.WithTeamIn(t, programtest.FullBudget, (*programtest.House).Draft)
	section := "/applications/" + c.Ref + "/sections/budget-section"
	one := webtest.Window(t, base)
	imre := webtest.In(t, one)
	imre.SignsIn("imre@corvoe.example")
	imre.Goes(section)
	mate := webtest.In(t, webtest.Window(t, base))
	mate.SignsIn("ysolde@tarl.example")
	mate.Goes(section)
	imre.Reads("is on this page too")
	mate.Reads("is on this page too")
	imre.Fills(`[name="budget:r0001:item"]`, "Warden")
	mate.Fills(`[name="budget:r0001:item"]`, "Training")
	both := `['Warden', 'Training'].every(v => [...document.querySelectorAll('[name$=":item"]')].some(i => i.value === v))`
	imre.Waits(both)
	mate.Waits(both)
	imre.Kept()
	mate.Kept()
	imre.Goes(section)
	imre.Waits(both)
}
