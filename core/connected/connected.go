// Package connected finds people and bodies that belong together: the same one
// written differently, or two who share a telephone, an address, a mailbox, a
// number, a mail domain of their own.
//
// What agrees and what differs is weighed in bits, as I. P. Fellegi and A. B.
// Sunter do ("A theory for record linkage", JASA 64, 1969): agreeing on what few
// have says much (log₂ of how many there are for each who has it; after H. B.
// Newcombe and others, Science 130, 1959), differing says that it is somebody
// else. Two are claimed to be the same when the sum outweighs the odds against any
// two of so many being so. A claim explains itself part by part and is never more
// than that: a person rules on it.
//
// Only pairs that have a key in common are compared, so that a hundred thousand
// can be gone through (blocking; M. A. Jaro, JASA 84, 1989).
package connected

import (
	"math"
	"slices"
	"strings"

	"ulvant/core/personname"
	"ulvant/core/request"
)

// Party is a person or a body as one place says it.
type Party struct {
	ID        int64
	Name      string
	Body      bool
	Mails     []string
	Phones    []string // in international form
	Addresses []string // as written
	Numbers   []string // identifiers, as kept
}

// Kind of what agrees or differs.
type Kind string

// The kinds, the strongest first, as they are told.
const (
	Number  Kind = "number"
	Mail    Kind = "mail"
	Phone   Kind = "phone"
	Address Kind = "address"
	Domain  Kind = "domain"
	Names   Kind = "name"
)

// Evidence is one thing that was compared.
type Evidence struct {
	Kind Kind    `json:"kind"`
	What string  `json:"what,omitempty"` // what agrees, as kept; of names, nothing
	Near int     `json:"near,omitempty"` // of names: the weakest personname.Near among the words that agree
	Bits float64 `json:"bits"`           // below 0: it speaks against
}

// Claim that two parties belong together.
type Claim struct {
	Same     bool       // the same one; else two who share something
	Bits     float64    // by how much the evidence outweighs the odds
	Evidence []Evidence // what agrees, the strongest kind first
}

// Counts tells how many parties have a key; at least 1 for a key of one of them.
type Counts func(key string) int

// Limits of what is shared: what more have says nothing of any two.
const (
	MostShare  = 12 // a telephone, an address, a mailbox, a number
	MostDomain = 60 // a mail domain
	MostBlock  = 60 // parties of one key that are compared with each other
)

// mailKey is one's mailbox; what follows a plus does not count.
func mailKey(m string) (key, domain string) {
	m = strings.ToLower(strings.TrimSpace(m))
	i := strings.LastIndexByte(m, '@')
	if i < 1 {
		return "", ""
	}
	local, domain := m[:i], m[i+1:]
	local, _, _ = strings.Cut(local, "+")
	return "m:" + local + "@" + domain, domain
}

// digits of a telephone; "" for what is too short to be one's own.
func digits(p string) string {
	d := strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return r
		}
		return -1
	}, p)
	if len(d) < 6 {
		return ""
	}
	return d
}

// address words are folded and put in order, so that how lines are parted does
// not count; one that is too short is none.
func addressKey(a string) string {
	w := strings.Fields(personname.Fold(a))
	short := map[string]string{"road": "rd", "street": "st", "lane": "ln", "avenue": "ave", "house": "hse"}
	for i := range w {
		if s, ok := short[w[i]]; ok {
			w[i] = s
		}
	}
	if len(w) < 3 {
		return ""
	}
	slices.Sort(w)
	return "a:" + strings.Join(slices.Compact(w), " ")
}

// legal words of bodies that say nothing of which it is; common practice, no
// source.
const legal = "ltd limited plc cic clg co company the of and for inc gmbh ev sa sarl srl bv charity charitable"

// bodyKey is a body’s folded name without its legal words, in order.
func bodyKey(name string) string {
	var kept []string
	for w := range strings.FieldsSeq(personname.Fold(name)) {
		if !slices.Contains(strings.Fields(legal), w) {
			kept = append(kept, w)
		}
	}
	slices.Sort(kept)
	return strings.Join(kept, " ")
}

// Key is one thing by which a party is found, or by which it is counted how many
// have it.
type Key struct {
	Of    Kind
	Key   string
	Finds bool // parties with the same one are compared
}

// keys of a party.
func (p Party) keys() (out []Key) {
	add := func(k Kind, key string, finds bool) {
		if key != "" && !slices.ContainsFunc(out, func(x Key) bool { return x.Key == key }) {
			out = append(out, Key{k, key, finds})
		}
	}
	for _, n := range p.Numbers {
		if n = strings.ReplaceAll(personname.Fold(n), " ", ""); len(n) >= 4 {
			add(Number, "n:"+n, true)
		}
	}
	for _, m := range p.Mails {
		key, domain := mailKey(m)
		add(Mail, key, true)
		if domain != "" && !slices.Contains(request.Common, domain) {
			add(Domain, "d:"+domain, true)
		}
	}
	for _, t := range p.Phones {
		if d := digits(t); d != "" {
			add(Phone, "p:"+d, true)
		}
	}
	for _, a := range p.Addresses {
		add(Address, addressKey(a), true)
	}
	if p.Body {
		if b := bodyKey(p.Name); b != "" {
			add(Names, "b:"+b, true)
		}
		return out
	}
	words := personname.Parse(p.Name).Words
	for _, w := range words {
		add(Names, "w:"+w, false)
		add(Names, "h:"+personname.Sound(w), false)
	}
	for i, w := range words { // one word by the ear, another by its first letter: order and initials do not matter
		if len(w) < 3 {
			continue
		}
		for j, other := range words {
			if i != j {
				add(Names, "s:"+personname.Sound(w)+" "+other[:1], true)
			}
		}
	}
	return out
}

// weights of what differs, and by how much less what is only like says; in bits.
// Ours, set on one made set of people and held to others (people_test.go says how
// they are made).
const (
	otherContact = -4.0 // both have one, and not the same
	otherAddress = -4.0
	otherFamily  = -3.0 // a family name against another: who marries may change it
	otherGiven   = -9.0 // a given name against another: brothers and sisters
	otherWords   = -9.0 // no word agrees at all
	nameAlone    = -3.5 // nothing but the name agrees: namesakes are many
	lessSlip     = 1.0
	lessSound    = 2.5
	ofInitial    = 2.5 // one letter in about six, common letters being common
	mostWord     = 11.0
	mostContact  = 17.0
	sooner       = 1.0 // a claim is for a person to look at: it may be made a little before it is likelier than not
)

// rarity of a key in bits, among so many parties.
func rarity(key string, among int, count Counts) float64 {
	return math.Log2(float64(among) / float64(max(count(key), 1)))
}

// Read is a party with what is compared of it worked out once.
type Read struct {
	Party
	Keys  []Key
	words []string // of a person’s name
	body  string   // a body’s folded name
}

// Take reads a party.
func Take(p Party) Read {
	r := Read{Party: p, Keys: p.keys()}
	if p.Body {
		r.body = bodyKey(p.Name)
	} else {
		r.words = personname.Parse(p.Name).Words
	}
	return r
}

// Few is below which number of parties nothing is learnt from how many have a
// thing: they are taken for so many, and a name alone claims nothing.
const Few = 500

// Compare two parties out of so many; ok is false when nothing is claimed.
func Compare(a, b Read, among int, count Counts) (c Claim, ok bool) {
	few := among < Few
	among = max(among, Few)
	shares := false
	contact := func(kind Kind, ka, kb []Key, most int, differs float64) {
		var has [2]bool
		for _, x := range ka {
			has[0] = has[0] || x.Of == kind
			if x.Of != kind {
				continue
			}
			for _, y := range kb {
				if x.Key == y.Key {
					n := count(x.Key)
					e := Evidence{Kind: kind, What: x.Key[2:], Bits: math.Min(mostContact, rarity(x.Key, among, count))}
					if n > most {
						continue
					}
					shares = true
					c.Evidence = append(c.Evidence, e)
					c.Bits += e.Bits
					return // one is enough: others of the kind are not independent
				}
			}
		}
		for _, y := range kb {
			has[1] = has[1] || y.Of == kind
		}
		if has[0] && has[1] {
			c.Bits += differs
		}
	}
	ka, kb := a.Keys, b.Keys
	contact(Number, ka, kb, MostShare, otherContact)
	contact(Mail, ka, kb, MostShare, otherContact)
	contact(Phone, ka, kb, MostShare, otherContact)
	contact(Address, ka, kb, MostShare, otherAddress)
	if !slices.ContainsFunc(c.Evidence, func(e Evidence) bool { return e.Kind == Mail }) {
		contact(Domain, ka, kb, MostDomain, 0)
	}
	contacts := len(c.Evidence)
	name, agrees := names(a, b, among, count)
	c.Bits += name.Bits
	if agrees {
		c.Evidence = append(c.Evidence, name)
	}
	if contacts == 0 {
		c.Bits += nameAlone
	}
	c.Bits -= math.Log2(float64(among)) - sooner // the odds against any two
	c.Same = agrees && a.Body == b.Body && c.Bits >= 0 && (contacts > 0 || !few)
	return c, c.Same || shares
}

// names weighs how the names agree; agrees is false when no word of them does.
func names(a, b Read, among int, count Counts) (e Evidence, agrees bool) {
	e = Evidence{Kind: Names, Near: int(personname.Equal)}
	if a.Body || b.Body {
		ka, kb := a.body, b.body
		switch {
		case a.Body != b.Body || ka == "" || kb == "":
			return e, false
		case ka == kb:
			e.Bits = math.Min(mostContact, rarity("b:"+ka, among, count)) + 1
			return e, true
		case personname.Similar(ka, kb) >= 0.95:
			e.Near, e.Bits = int(personname.Misspells), mostWord
			return e, true
		}
		e.Bits = otherWords
		return e, false
	}
	wa, wb := a.words, b.words
	if len(wa) == 0 || len(wb) == 0 {
		return e, false
	}
	used := make([]bool, len(wb))
	agreed, full := 0, 0
	var left, right []bool // of words that agree with none: it is the last, the family’s
	for i, x := range wa {
		best, at := personname.Differs, -1
		for j, y := range wb {
			if near := personname.Compare(x, y); !used[j] && near > best {
				best, at = near, j
			}
		}
		if at < 0 {
			left = append(left, i == len(wa)-1)
			continue
		}
		used[at] = true
		agreed++
		e.Near = min(e.Near, int(best))
		if best > personname.Initial && len(x) > 1 {
			full++
		}
		e.Bits += math.Min(mostWord, word(x, wb[at], best, among, count))
	}
	for j, u := range used {
		if !u {
			right = append(right, j == len(wb)-1)
		}
	}
	if agreed == 0 || full == 0 {
		e.Bits = otherWords
		return e, false
	}
	for n := range min(len(left), len(right)) { // a word against another; one too many is a middle name
		if left[len(left)-1-n] && right[len(right)-1-n] {
			e.Bits += otherFamily
		} else {
			e.Bits += otherGiven
		}
	}
	return e, true
}

// word is what one pair of words says.
func word(a, b string, near personname.Near, among int, count Counts) float64 {
	switch near {
	case personname.Equal:
		if len(a) == 1 {
			return ofInitial
		}
		return rarity("w:"+a, among, count)
	case personname.Initial:
		return ofInitial
	case personname.Misspells:
		return math.Max(1, math.Min(rarity("w:"+a, among, count), rarity("w:"+b, among, count))-lessSlip)
	default:
		return math.Max(1, rarity("h:"+personname.Sound(a), among, count)-lessSound)
	}
}
