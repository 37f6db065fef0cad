package connected_test

import (
	"fmt"
	"math/rand/v2"
	"strings"

	"ulvant/core/connected"
)

// How the made set is made. 2,000 entries. Names are drawn from 90 given and 260
// family names with unequal frequencies (the square of a uniform draw: a few are
// common), so that namesakes come by themselves; another hundred are planted: the
// same full name, another person. Each person has a mailbox, a telephone and an
// address, four in ten work for one of 90 bodies with a mail domain of its own. In
// an entry the mailbox is left out with chance 0.15 (whoever leads, vouches or reads
// has given one), telephone and address each with 0.3. 300 people come twice. The
// second time one or two of these is done to the name: the order turned (“Daly,
// Donal”), the given name to its initial, an accent or apostrophe put or left out,
// a slip in one letter or two letters swapped, a spelling heard alike, a middle
// name put in, another family name by marriage; and one in five has changed
// mailbox, telephone or address meanwhile. A pair of which both entries are left
// with no particular in common but the name and a common name is not findable by
// anybody, and stays in the set all the same.

var givenNames = words(`aine ailsa alasdair anders anneli aoife beathag brid brona caitlin callum catriona ciaran colm
	conall cormac dacian daire deirdre donal dugald eamon eilidh eimear eithne elspeth ewan fergus finlay fiona flora gearoid
	grainne greta hamish hedda hugh imre ingrid iona isla ivar jarlath jonas kari katrin kirsty liam lorcan magnus mairead
	malcolm marit marta maura mhairi mirren moya muriel neda niall nora nuala oisin olaf orla owain padraig peigi rhona
	roisin ronan runa ruth saoirse senan seonaid shona sigrid signe sorcha struan tadhg tomas torquil una ursula vigdis`)

var syllables = strings.Fields("bar cal dor fen gal har kel lom mor nes pet ros sul tar ver wyn ald bren cor dun")

var endings = strings.Fields("an away bridge croft dale er ford gill holm ing kirk ley man nes ow rick son stead ton wick")

func words(s string) []string { return strings.Fields(s) }

func title(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// made is an entry, and who it is of.
type made struct {
	connected.Party
	who int
}

type person struct {
	given, family, mail, phone, address string
}

func people(seed uint64) []made {
	r := rand.New(rand.NewPCG(seed, 11))
	var families []string
	for i := range 260 {
		families = append(families, syllables[i%len(syllables)]+endings[(i/len(syllables)+i)%len(endings)])
	}
	skewed := func(list []string) string { u := r.Float64(); return list[int(u*u*float64(len(list)))] }
	someone := func() person {
		p := person{given: skewed(givenNames), family: skewed(families)}
		domain := "gmail.com"
		if r.Float64() < .4 {
			domain = fmt.Sprintf("%s.example", families[r.IntN(90)])
		}
		p.mail = fmt.Sprintf("%s%d@%s", p.given[:2]+p.family[:3], r.IntN(10000), domain)
		p.phone = fmt.Sprintf("+35387%07d", r.IntN(10000000))
		p.address = fmt.Sprintf("%d %s Road, %s", 1+r.IntN(80), title(families[r.IntN(60)]), title(families[r.IntN(12)]))
		return p
	}
	var out []made
	put := func(who int, name string, p person) {
		e := made{connected.Party{ID: int64(len(out)), Name: name}, who}
		if r.Float64() < .85 {
			e.Mails = []string{p.mail}
		}
		if r.Float64() < .7 {
			e.Phones = []string{p.phone}
		}
		if r.Float64() < .7 {
			e.Addresses = []string{p.address}
		}
		out = append(out, e)
	}
	var all []person
	for i := range 1600 {
		p := someone()
		all = append(all, p)
		put(i, title(p.given)+" "+title(p.family), p)
	}
	for i := range 300 {
		p := all[i]
		now := someone()
		switch r.IntN(15) {
		case 0:
			p.mail = now.mail
		case 1:
			p.phone = now.phone
		case 2:
			p.address = now.address
		}
		put(i, written(r, p, families), p)
	}
	for i := range 100 {
		p := someone()
		p.given, p.family = all[300+i].given, all[300+i].family
		put(len(all)+i, title(p.given)+" "+title(p.family), p)
	}
	return out
}

// written is another way of writing a name.
func written(r *rand.Rand, p person, families []string) string {
	given, family := title(p.given), title(p.family)
	turned := false
	for range 1 + r.IntN(2) {
		switch r.IntN(8) {
		case 0:
			turned = true
		case 1:
			given = given[:1] + "."
		case 2:
			family = strings.NewReplacer("a", "á", "o", "ó", "e", "é").Replace(family)
		case 3:
			family = "O’" + family
		case 4:
			b := []byte(p.family)
			i := 1 + r.IntN(len(b)-2)
			b[i], b[i+1] = b[i+1], b[i]
			family = title(string(b))
		case 5:
			family = strings.NewReplacer("f", "ph", "c", "k", "y", "i", "ll", "l").Replace(family)
		case 6:
			given += " " + title(givenNames[r.IntN(len(givenNames))])
		case 7:
			if r.IntN(3) == 0 {
				family = title(families[r.IntN(len(families))])
			}
		}
	}
	if turned {
		return family + ", " + given
	}
	return given + " " + family
}
