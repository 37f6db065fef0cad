package offer_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	core "ulvant/core/offer"
	"ulvant/internal/award"
	"ulvant/internal/decision"
	"ulvant/internal/offer"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// offered has ten working days to answer, and one promise to make.
func offered(d *form.Design) {
	programtest.Short(d)
	d.Offer = &form.Offer{Days: 10, Promises: []string{"I send a report."}}
}

func granted(t *testing.T) *programtest.Panel {
	t.Helper()
	p := programtest.ReadRoundIn(
		t,
		offered,
		map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "40,000", "Dee": "10,000"},
	)
	if _, err := p.Records("", p.Choices(map[string]int64{"Ann": 60_000_00, "Bo": -1, "Cy": 40_000_00,
		"Dee": 0})); err != nil {
		t.Fatal(err)
	}
	return p
}

// of a person: what they are offered.
func of(t *testing.T, p *programtest.Panel, name string) []offer.Offer {
	t.Helper()
	p.StateOf(name)
	list, err := p.Offers.Of(t.Context(), p.DB, p.Of[name].EntryID)
	if err != nil {
		t.Fatal(err)
	}
	return list
}

func try(t *testing.T, p *programtest.Panel, by int64, do func(ctx context.Context, tx *db.Tx) error) error {
	t.Helper()
	return p.Try(by, do)
}

func accept(t *testing.T, p *programtest.Panel, name string, i int, promised ...string) error {
	t.Helper()
	id := of(t, p, name)[i].ID
	return try(t, p, p.Of[name].LeadID, func(ctx context.Context, tx *db.Tx) error {
		return p.Offers.Accept(ctx, tx, p.Round.ID, id, promised)
	})
}

func decline(t *testing.T, p *programtest.Panel, name string, i int) error {
	t.Helper()
	id := of(t, p, name)[i].ID
	return try(t, p, p.Of[name].LeadID, func(ctx context.Context, tx *db.Tx) error {
		return p.Offers.Decline(ctx, tx, p.Round.ID, id, "I have another post.")
	})
}

func put(t *testing.T, p *programtest.Panel, name string, to core.Answer, why string) error {
	t.Helper()
	id := of(t, p, name)[0].ID
	return try(t, p, p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Offers.Put(ctx, tx, p.Round.ID, id, to, why)
	})
}

// up is who is first in reserve and can move up; "" for nobody.
func up(t *testing.T, p *programtest.Panel) string {
	t.Helper()
	table, err := p.Decisions.Order(t.Context(), p.DB, p.Round, p.Form, "writing")
	if err != nil {
		t.Fatal(err)
	}
	x, err := p.Decisions.Proposed(t.Context(), p.DB, p.Form, table)
	if err != nil {
		t.Fatal(err)
	}
	if x == nil {
		return ""
	}
	return strings.Fields(x.Row.Lead)[0]
}

// Nothing is offered before the letter leaves; it says by when to answer; what is accepted
// needs every promise; what is declined is free at once, and the reserve moves up.
func TestAnOfferIsAnswered(t *testing.T) {
	t.Parallel()
	p := granted(t)
	if list := of(t, p, "Ann"); list != nil {
		t.Errorf("before the letter leaves: %+v", list)
	}
	p.After(2 * time.Hour)
	if got := p.Told("Ann") + ", " + p.Told("Dee"); got != "offered 6000000, not awarded" {
		t.Error(got)
	}
	mails, _ := p.Tray.List("ann@corvoe.example", 0, 1)
	ends := p.Form.OfferEnds(p.Clock.Now())
	if len(mails) == 0 ||
		!strings.Contains(
			mails[0].Body,
			"by the end of "+ends.Add(-time.Hour).In(p.Form.Zone).Format("2 January 2006"),
		) {
		t.Errorf("the letter does not say by when: %+v, %s", mails, ends)
	}
	if of(t, p, "Dee") != nil || of(t, p, "Bo") != nil {
		t.Error("somebody who is not awarded is offered something")
	}
	if err := accept(t, p, "Ann", 0); err == nil || !strings.Contains(err.Error(), "report") {
		t.Errorf("without the promise: %v", err)
	}
	if err := accept(t, p, "Ann", 0, "I send a report."); err != nil || p.Told("Ann") != "accepted 6000000" {
		t.Fatalf("%v, %s", err, p.Told("Ann"))
	}
	if accept(t, p, "Ann", 0, "I send a report.") == nil {
		t.Error("twice")
	}
	if up(t, p) != "" {
		t.Error("somebody moves up with no money free")
	}
	if err := decline(t, p, "Cy", 0); err != nil || p.StateOf("Cy") != lifecycle.OfferDown {
		t.Fatalf("%v, %s", err, p.StateOf("Cy"))
	}
	p.Drain()
	if mails, _ := p.Tray.List("cy@corvoe.example", 0, 1); len(mails) == 0 ||
		!strings.Contains(mails[0].Body, "You have declined €40,000") {
		t.Errorf("%+v", mails)
	}
	if accept(t, p, "Cy", 0, "I send a report.") == nil {
		t.Error("whoever declined takes it all the same")
	}
	if up(t, p) != "" { // 40,000 are free, and Bo asks 50,000
		t.Errorf("%s moves up", up(t, p))
	}
	if err := decline(t, p, "Ann", 0); err != nil || up(t, p) != "Bo" {
		t.Errorf("whoever accepted steps back: %v, %q", err, up(t, p))
	}
}

// What came back is opened again where the money is still there, and not where somebody
// else has it by now; each act of the office needs its reason.
func TestTheOfficeCorrectsAnAnswer(t *testing.T) {
	t.Parallel()
	p := granted(t)
	p.After(2 * time.Hour)
	if err := decline(t, p, "Ann", 0); err != nil {
		t.Fatal(err)
	}
	if put(t, p, "Ann", core.Open, " ") == nil {
		t.Error("without a reason")
	}
	if err := put(t, p, "Ann", core.Open, "She pressed the wrong button."); err != nil ||
		p.Told("Ann") != "offered 6000000" {
		t.Fatalf("%v, %s", err, p.Told("Ann"))
	}
	if err := put(t, p, "Ann", core.Declined, "She telephoned."); err != nil {
		t.Fatal(err)
	}
	if _, err := p.Records("Ann's money is free", p.Choices(map[string]int64{"Bo": 50_000_00})); err != nil {
		t.Fatal(err)
	}
	if err := put(t, p, "Ann", core.Accepted, "She wants it after all."); err == nil ||
		!strings.Contains(err.Error(), "more than the fund") {
		t.Errorf("Bo has it: %v", err)
	}
	if p.StateOf("Ann") != lifecycle.OfferDown || of(t, p, "Ann")[0].Answer != core.Declined {
		t.Error("what could not be done is half done")
	}
	if err := put(t, p, "Cy", core.Accepted, "By telephone, 4 March."); err != nil ||
		p.StateOf("Cy") != lifecycle.Accepted {
		t.Error(err, p.StateOf("Cy"))
	}
}

// Whoever does not answer is reminded once, two working days before the end; then it
// lapses. More time can be given while it is open.
func TestAnOfferLapses(t *testing.T) {
	t.Parallel()
	p := granted(t)
	p.After(2 * time.Hour)
	due := of(t, p, "Ann")[0].DueAt
	if err := try(t, p, p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Offers.Extend(ctx, tx, p.Round.ID, of(t, p, "Cy")[0].ID, due.AddDate(0, 0, 7), "He is at sea.")
	}); err != nil {
		t.Fatal(err)
	}
	reminded := func(name string) (n int) {
		t.Helper()
		mails, _ := p.Tray.List(name+"@corvoe.example", 0, 50)
		for _, m := range mails {
			if strings.Contains(m.Subject, "please answer") {
				n++
			}
		}
		return n
	}
	sweep := func(at time.Time) {
		t.Helper()
		p.Clock.Set(at)
		if err := p.Offers.Sweep(t.Context(), at); err != nil {
			t.Fatal(err)
		}
		p.Drain()
	}
	last := p.Form.WorkingDaysAfter(due.Add(-time.Second), -core.RemindDays-1)
	sweep(last.Add(-time.Minute))
	if n := reminded("ann"); n != 0 {
		t.Errorf("reminded %d times too early", n)
	}
	sweep(last)
	sweep(last.Add(time.Hour))
	if n, m := reminded("ann"), reminded("cy"); n != 1 || m != 0 {
		t.Errorf("reminded %d and %d times", n, m)
	}
	sweep(due.Add(-time.Second))
	if p.StateOf("Ann") != lifecycle.OnOffer {
		t.Error("it lapses before its end")
	}
	sweep(due)
	if p.StateOf("Ann") != lifecycle.OfferLapsed || p.StateOf("Cy") != lifecycle.OnOffer || up(t, p) != "Bo" {
		t.Errorf("%s, %s, %q moves up", p.StateOf("Ann"), p.StateOf("Cy"), up(t, p))
	}
	if accept(t, p, "Ann", 0, "I send a report.") == nil {
		t.Error("accepted too late")
	}
	if err := put(t, p, "Ann", core.Open, "Her mail was down."); err != nil ||
		!of(t, p, "Ann")[0].DueAt.After(p.Clock.Now()) {
		t.Errorf("%v, until %s", err, of(t, p, "Ann")[0].DueAt)
	}
	sums, err := p.Offers.Sums(t.Context(), p.DB, p.Round.ID)
	if err != nil || len(sums) != 4 || sums[0].N != 2 || sums[0].Sum != 100_000_00 {
		t.Errorf("%+v, %v", sums, err)
	}
	list, err := p.Offers.List(t.Context(), p.DB, p.Round.ID, core.Open, 0, 10)
	if err != nil || len(list) != 2 || list[1].By == "" {
		t.Errorf("%+v, %v", list, err)
	}
}

// A decision that is changed before the answer: what they were told holds until the new
// letter leaves, and its offer takes the place of the old one.
func TestADecisionThatIsChangedWhileItIsOnOffer(t *testing.T) {
	t.Parallel()
	p := granted(t)
	p.After(2 * time.Hour)
	if _, err := p.Records("Her budget was cut", p.Choices(map[string]int64{"Ann": 55_000_00})); err != nil {
		t.Fatal(err)
	}
	if err := accept(t, p, "Ann", 0, "I send a report."); err != nil {
		t.Fatal(err)
	}
	if got := p.Told("Ann"); got != "offered 6000000" {
		t.Errorf("before the new letter: %s", got)
	}
	p.After(2 * time.Hour)
	if list := of(t, p, "Ann"); len(list) != 1 || list[0].Amount != 55_000_00 || list[0].Answer != core.Open ||
		p.Told("Ann") != "offered 5500000" {
		t.Errorf("%+v, %s", list, p.Told("Ann"))
	}
	if _, err := p.Records("She cannot be funded", p.Choices(map[string]int64{"Ann": 0})); err != nil {
		t.Fatal(err)
	}
	p.After(2 * time.Hour)
	if of(t, p, "Ann") != nil || p.Told("Ann") != "not awarded" {
		t.Errorf("%s", p.Told("Ann"))
	}
}

// Letters that were stopped and leave later say the later day.
func TestTheDayMovesWithTheLetter(t *testing.T) {
	t.Parallel()
	p := granted(t)
	acts, err := p.Decisions.Acts(t.Context(), p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	later := p.Clock.Now().AddDate(0, 0, 20)
	if err := try(t, p, p.Officer, func(ctx context.Context, tx *db.Tx) error {
		if _, err := p.Decisions.StopLetters(ctx, tx, p.Round.ID, acts[0].ID); err != nil {
			return err
		}
		_, err := p.Decisions.ReleaseLetters(ctx, tx, p.Round, p.Form, acts[0].ID, later)
		return err
	}); err != nil {
		t.Fatal(err)
	}
	p.Clock.Set(later)
	p.Drain()
	mails, _ := p.Tray.List("ann@corvoe.example", 0, 1)
	day := p.Form.OfferEnds(later).Add(-time.Hour).In(p.Form.Zone).Format("2 January 2006")
	if len(mails) == 0 || !strings.Contains(mails[0].Body, "by the end of "+day) {
		t.Errorf("not %s: %+v", day, mails)
	}
}

// Each of several awards is answered for itself; who gave one back is not placed on it
// again, and the donor sees who has it now.
func TestAwardsAreAnsweredEachForItself(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, func(d *form.Design) {
		programtest.ManyAwards(d)
		d.Offer = &form.Offer{Days: 10, Promises: []string{"I send a report."}}
	}, programtest.ForAwards)
	p.Clock.Set(p.Form.At(form.Closes).Add(time.Hour))
	p.Drain()
	place := func(reason string) (n int, err error) {
		err = try(t, p, p.Officer, func(ctx context.Context, tx *db.Tx) error {
			if _, err := p.Awards.WorkOut(ctx, tx, p.Round, p.Form, nil); err != nil {
				return err
			}
			if err := p.Awards.SolveAll(ctx, tx, p.Round, p.Form); err != nil {
				return err
			}
			list, err := p.Awards.Placings(ctx, tx, p.Round.ID)
			if err != nil {
				return err
			}
			i := slices.IndexFunc(list, func(x award.Placing) bool { return x.Name == "Best by award" })
			n, _, err = p.Awards.Record(
				ctx,
				tx,
				p.Round,
				p.Form,
				award.Recording{Placing: list[i].ID, Others: lifecycle.NotAwarded,
					Note: "Committee", Reason: reason},
			)
			return err
		})
		return n, err
	}
	for name := range programtest.ForAwards {
		p.StateOf(name)
	}
	if _, err := place(""); err != nil {
		t.Fatal(err)
	}
	p.After(2 * time.Hour)
	list := of(t, p, "Ann")
	if len(list) != 2 || list[0].Award != "loft" || list[1].Award != "hardship" || p.Told("Ann") != "offered 280000" {
		t.Fatalf("%+v, %s", list, p.Told("Ann"))
	}
	if err := accept(t, p, "Ann", 1, "I send a report."); err != nil || p.StateOf("Ann") != lifecycle.OnOffer {
		t.Fatalf("%v, %s", err, p.StateOf("Ann"))
	}
	if err := decline(t, p, "Ann", 0); err != nil || p.Told("Ann") != "accepted 80000" {
		t.Fatalf("%v, %s", err, p.Told("Ann"))
	}
	holders := func() (out []string) {
		t.Helper()
		list, err := p.Decisions.HoldersOf(t.Context(), p.DB, p.Round.ID, "loft")
		if err != nil {
			t.Fatal(err)
		}
		for _, h := range list {
			out = append(out, h.Lead)
		}
		return out
	}
	if h := holders(); h != nil {
		t.Errorf("the donor is shown whoever declined: %v", h)
	}
	if err := try(t, p, p.Officer, func(ctx context.Context, tx *db.Tx) error {
		if err := p.Awards.Rule(ctx, tx, p.Round, p.Form, p.Of["Bo"].EntryID, "loft", true, "It is sails."); err != nil {
			return err
		}
		if err := p.Awards.Lay(ctx, tx, p.Round, p.Form, p.Of["Bo"].EntryID, "loft", award.Give, "He is next."); err != nil {
			return err
		}
		return p.Awards.Lay(ctx, tx, p.Round, p.Form, p.Of["Bo"].EntryID, "bench", award.Bar, "Two are enough.")
	}); err != nil {
		t.Fatal(err)
	}
	if _, err := place("Ann declined the Loft Bequest"); err != nil {
		t.Fatal(err)
	}
	p.After(2 * time.Hour)
	if h := holders(); !slices.Equal(h, []string{"Bo Hart"}) {
		t.Errorf("%v", h)
	}
	pairs, err := p.Awards.OfPerson(t.Context(), p.DB, p.Round, p.Form, award.Placing{}, p.Of["Ann"].Ref)
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range pairs {
		if gave := x.Back != nil && *x.Back == core.Declined; gave != (x.Award == "loft") {
			t.Errorf("%s came back: %v", x.Award, x.Back)
		}
	}
	// the bench that Bo leaves is offered beside it; what Ann accepted is not asked anew
	if list := of(t, p, "Ann"); len(list) != 2 || list[0].Award != "hardship" || list[0].Answer != core.Accepted ||
		list[1].Award != "bench" || list[1].Answer != core.Open || p.Told("Ann") != "offered 80000" {
		t.Errorf("%s, %+v", p.Told("Ann"), list)
	}
	var lines []decision.Line
	if err := p.DB.SelectContext(t.Context(), &lines, `SELECT award, amount FROM came_back WHERE entry_id = $1`,
		p.Of["Ann"].EntryID); err != nil ||
		len(lines) != 1 {
		t.Errorf("%+v, %v", lines, err)
	}
}

// What is lent beside the money is offered with it, and free again when it comes back.
func TestGiftsComeBackWithTheSum(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRoundIn(t, func(d *form.Design) {
		offered(d)
		d.Gifts = []form.Gift{{Key: "digger", Label: "Days of the digger", What: "goods", Value: 450_00, Stock: 8,
			Request: "days"}}
		d.Sections[0].Questions = append(d.Sections[0].Questions, form.Question{Key: "days", Kind: form.Number, Label: "Days",
			Nature: form.Chosen, Blank: form.MeansNo, Seen: form.ToReaders})
	}, map[string]string{"Ann": "40,000|days = 8", "Bo": "30,000|days = 6"})
	gives := func(name string, sum, days int64) error {
		c := p.Choices(map[string]int64{name: sum})[0]
		c.Gifts = []decision.GivenGift{{Gift: "digger", Units: days}}
		_, err := p.Records("", []decision.Choice{c})
		return err
	}
	if err := gives("Ann", 40_000_00, 8); err != nil {
		t.Fatal(err)
	}
	p.After(2 * time.Hour)
	if list := of(t, p, "Ann"); len(list) != 1 || list[0].What(p.Form) != "€40,000; Days of the digger: 8" {
		t.Fatalf("%+v", list)
	}
	if gives("Bo", 30_000_00, 6) == nil {
		t.Error("Ann has all of it")
	}
	if err := decline(t, p, "Ann", 0); err != nil {
		t.Fatal(err)
	}
	if err := gives("Bo", 30_000_00, 6); err != nil {
		t.Error(err)
	}
	if err := put(t, p, "Ann", core.Open, "A slip."); err == nil || !strings.Contains(err.Error(), "Days of the digger") {
		t.Errorf("Bo has it now: %v", err)
	}
}

// An offer that is open is given until a later day, with a reason of up to a thousand
// signs; what stands of a case is listed with its day.
func TestAnOfferIsExtended(t *testing.T) {
	t.Parallel()
	p := granted(t)
	p.After(2 * time.Hour)
	list, err := p.Offers.Of(t.Context(), p.DB, p.Of["Ann"].EntryID)
	if err != nil || len(list) != 1 {
		t.Fatal(list, err)
	}
	later := list[0].DueAt.AddDate(0, 0, 7)
	for _, c := range []struct {
		what, why string
		until     time.Time
		ok        bool
	}{
		{"without a reason", " ", later, false},
		{"with too long a reason", strings.Repeat("x", 1001), later, false},
		{"until now", "They are at sea.", p.Clock.Now(), false},
		{"with the longest reason there may be", strings.Repeat("x", 1000), later, true},
	} {
		err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Offers.Extend(ctx, tx, p.Round.ID, list[0].ID, c.until, c.why)
		})
		if (err == nil) != c.ok {
			t.Errorf("%s: %v", c.what, err)
		}
		now, err := p.Offers.Of(t.Context(), p.DB, p.Of["Ann"].EntryID)
		if err != nil || len(now) != 1 || now[0].DueAt.Equal(list[0].DueAt) == c.ok {
			t.Errorf("%s: %+v %v", c.what, now, err)
		}
	}
}
