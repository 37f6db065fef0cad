package connected_test

import (
	"strings"
	"testing"

	"ulvant/core/connected"
)

// measure counts claims of being the same against the truth.
func measure(list []made) (precision, recall float64, missed, wrong []string) {
	var parties []connected.Party
	for _, m := range list {
		parties = append(parties, m.Party)
	}
	found, right := 0.0, 0.0
	got := map[[2]int]bool{}
	for _, p := range connected.All(parties, nil) {
		if !p.Same {
			continue
		}
		found++
		if list[p.A].who == list[p.B].who {
			right++
			got[[2]int{p.A, p.B}] = true
		} else {
			wrong = append(wrong, list[p.A].Name+" / "+list[p.B].Name)
		}
	}
	pairs := 0.0
	for i := range list {
		for j := i + 1; j < len(list); j++ {
			if list[i].who == list[j].who {
				pairs++
				if !got[[2]int{i, j}] {
					missed = append(missed, list[i].Name+" / "+list[j].Name)
				}
			}
		}
	}
	return right / found, right / pairs, missed, wrong
}

// kinds of the evidence of a claim, in the order told.
func kinds(c connected.Claim) (out string) {
	for _, e := range c.Evidence {
		out += string(e.Kind) + " "
	}
	return strings.TrimSpace(out)
}

// What is claimed of two out of a thousand, in which everything else is as rare as
// two in a thousand.
func TestWhatIsClaimed(t *testing.T) {
	p := func(name string, mail, phone, address string) connected.Party {
		x := connected.Party{Name: name}
		for to, v := range map[*[]string]string{&x.Mails: mail, &x.Phones: phone, &x.Addresses: address} {
			if v != "" {
				*to = []string{v}
			}
		}
		return x
	}
	body := func(name, number string) connected.Party {
		return connected.Party{Name: name, Body: true, Numbers: []string{number}}
	}
	often := map[string]int{"d:school.example": 40, "d:huge.example": 400, "p:35387000000": 30, "w:john": 200,
		"w:smith": 150}
	count := func(k string) int { return max(2, often[k]) }
	for _, c := range []struct {
		a, b  connected.Party
		claim string // same, share or "" for none
		kinds string
	}{
		{p("D. Ó Dálaigh", "", "+353 87 123 4567", ""), p("Donal O’Daly", "", "+353871234567", ""), "same", "phone name"},
		{p("Daly, Donal", "", "", ""), p("Donal Daly", "", "", ""), "same", "name"},
		{p("John Smith", "", "", ""), p("John Smith", "", "", ""), "", "name"},
		{p("John Smith", "js@one.example", "", ""), p("John Smith", "js+news@one.example", "", ""), "same", "mail name"},
		{p("Moya Reed", "", "+35387222333", "4 Pier Road, Tarl"), p("Ivar Stone", "", "+35387222333", "Tarl, 4 Pier Rd"),
			"share",
			"phone address"},
		{p("Moya Reed", "", "+35387000000", ""), p("Ivar Stone", "", "+35387000000", ""), "", ""}, // a switchboard
		{p("Moya Reed", "m@school.example", "", ""), p("Ivar Stone", "i@school.example", "", ""), "share", "domain"},
		{p("Moya Reed", "m@huge.example", "", ""), p("Ivar Stone", "i@huge.example", "", ""), "", ""},
		{p("Moya Reed", "m@gmail.com", "", ""), p("Ivar Stone", "i@gmail.com", "", ""), "", ""},
		{p("Moya Reed", "", "", "Tarl"), p("Ivar Stone", "", "", "Tarl"), "", ""}, // a place is no address
		{p("Moya Reed", "m@a.example", "+35387111111", ""), p("Moya Reed", "m@b.example", "+35387999999", ""), "", "name"},
		{p("", "", "", ""), p("", "", "", ""), "", ""},
		{p("Ann Hart", "ann@k.example", "", ""), p("Bo Hart", "bo@k.example", "", ""), "share", "domain name"},
		{p("Mary Hart", "mary@k.example", "+35387222333", ""), p("Mary Stone", "mary@k.example", "+35387222333", ""), "same",
			"mail phone name"},
		{body("Corvoe Crofters’ Common Ltd", "OI-1234"), body("The Corvoe Crofters Common", "oi 1234"), "same",
			"number name"},
		{body("Tarl Boatyard", "OI-1234"), body("Hallin School", "OI-1234"), "share", "number"},
		{body("Tarl Boatyard", "1"), p("Tarl Boatyard", "", "", ""), "", ""},
	} {
		got, ok := connected.Compare(connected.Take(c.a), connected.Take(c.b), 1000, count)
		claim := ""
		switch {
		case got.Same:
			claim = "same"
		case ok:
			claim = "share"
		}
		if claim != c.claim || kinds(got) != c.kinds {
			t.Errorf("%q and %q: %q by %q (%.1f bits), want %q by %q", c.a.Name, c.b.Name, claim, kinds(got), got.Bits, c.claim,
				c.kinds)
		}
		if few, _ := connected.Compare(connected.Take(c.a), connected.Take(c.b), 20, count); few.Same &&
			kinds(few) == "name" {
			t.Errorf("%q and %q: claimed by the name alone among twenty", c.a.Name, c.b.Name)
		}
		back, _ := connected.Compare(connected.Take(c.b), connected.Take(c.a), 1000, count)
		if back.Same != got.Same || kinds(back) != kinds(got) {
			t.Errorf("%q and %q: the other way round it is %q", c.a.Name, c.b.Name, kinds(back))
		}
	}
}

// What more have than a block is compared with nobody by that, and pairs that do
// not matter are not compared.
func TestPairsThatAreLookedAt(t *testing.T) {
	var list []connected.Party
	for i := range connected.MostBlock + 1 {
		list = append(list, connected.Party{Name: title(givenNames[i]) + " " + title(syllables[i%7]),
			Phones: []string{"+35312345678"}})
	}
	if got := connected.All(list, nil); len(got) != 0 {
		t.Errorf("a switchboard: %d claims", len(got))
	}
	pair := list[:2]
	if got := connected.All(pair, nil); len(got) != 1 || got[0].A != 0 || got[0].B != 1 || got[0].Same {
		t.Errorf("%+v", got)
	}
	if got := connected.All(pair, func(a, b int) bool { return false }); len(got) != 0 {
		t.Errorf("of no matter: %+v", got)
	}
}

// A made set of 2,000 with known pairs; the weights were set on the set of seed 1
// and are held to others.
func TestPeopleWrittenDifferentlyAreFound(t *testing.T) {
	for _, seed := range []uint64{2, 3, 4} {
		precision, recall, missed, wrong := measure(people(seed))
		t.Logf("set %d: precision %.1f%%, recall %.1f%%; missed %d, wrong %d", seed, 100*precision, 100*recall, len(missed),
			len(wrong))
		if precision < .95 || recall < .90 {
			t.Errorf("set %d: precision %.3f, recall %.3f; missed %q, wrong %q", seed, precision, recall, missed, wrong)
		}
	}
}

// A hundred thousand from nothing, and one more against them, beside the bare
// least: folding every name once.
func BenchmarkPeopleInCommon(b *testing.B) {
	var list []connected.Party
	for seed := range uint64(50) {
		for _, m := range people(seed) {
			list = append(list, m.Party)
		}
	}
	b.Run("from nothing", func(b *testing.B) {
		for b.Loop() {
			connected.All(list, nil)
		}
	})
	b.Run("bare: every name read", func(b *testing.B) {
		for b.Loop() {
			for _, p := range list {
				connected.Take(p)
			}
		}
	})
}
