// Package profile holds what a person or an organisation says of itself once,
// so that applications need not ask it again: its facts, the steps by which an
// organisation is taken on, and where a profile and an application differ.
// Which steps there are follows common practice of funders, no source; the
// numbers are checked by core/identifier, which names theirs.
package profile

import (
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"ulvant/core/address"
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/identifier"
)

// Kind of a profile.
type Kind string

// The kinds. A person's has no numbers that a register knows, no officers, and
// nobody looks it over.
const (
	Person Kind = "person"
	Body   Kind = "organisation"
)

// State of an organisation's profile; a person's is always Known.
type State string

// The states.
const (
	Making   State = "being filled in"
	Waiting  State = "waits for the office" // to be looked over
	Known    State = "known"
	SentBack State = "sent back" // with a note; it is filled in again
)

// Open reports a state in which the facts can be changed without asking.
func (s State) Open() bool { return s == Making || s == SentBack || s == Known }

// Facts of a profile, as typed.
type Facts struct {
	Legal    string    `json:"legal,omitempty"` // name as registered, where it is another
	Form     LegalForm `json:"form,omitempty"`  // of an organisation
	Numbers  []Number  `json:"numbers,omitempty"`
	Seat     Address   `json:"seat,omitzero"` // where it is; a street, not a box
	Post     Address   `json:"post,omitzero"` // where letters go, if elsewhere; may be a box
	Phone    string    `json:"phone,omitempty"`
	Born     string    `json:"born,omitempty"` // of a person, as typed
	Contacts []Contact `json:"contacts,omitempty"`
	Sponsor  string    `json:"-"` // the body that has agreed to hold the money; not theirs to write
}

// Number under which a register knows it.
type Number struct {
	Scheme string `json:"scheme"` // of core/identifier
	Value  string `json:"value"`
}

// Address in parts.
type Address struct {
	Street   string `json:"street,omitempty"`
	Town     string `json:"town,omitempty"`
	Postcode string `json:"postcode,omitempty"`
}

// Empty reports an address with nothing in it.
func (a Address) Empty() bool { return a == Address{} }

// Contact is somebody to write to.
type Contact struct {
	Name  string   `json:"name"`
	Email string   `json:"email"`
	Gets  []Notice `json:"gets,omitempty"` // besides the lead of the application
}

// Notice is a kind of mail that a contact gets a copy of.
type Notice string

// The notices.
const (
	Reminders Notice = "reminders"
	Decisions Notice = "decisions"
)

// Notices lists them.
var Notices = []Notice{Reminders, Decisions}

// Wants reports a contact who gets a notice.
func (c Contact) Wants(n Notice) bool {
	for _, g := range c.Gets {
		if g == n {
			return true
		}
	}
	return false
}

// Step by which an organisation is taken on.
type Step string

// The steps, in order.
const (
	Details   Step = "details"
	Numbers   Step = "numbers"
	Papers    Step = "papers"
	Addresses Step = "addresses"
	Contacts  Step = "contacts"
	Sponsored Step = "sponsor"
	Officers  Step = "officers"
)

// Steps of a kind.
func Steps(k Kind) []Step {
	if k == Person {
		return []Step{Details, Addresses, Sponsored}
	}
	return []Step{Details, Numbers, Papers, Addresses, Contacts, Officers}
}

// Label of a step.
func (s Step) Label() string {
	return map[Step]string{Details: "Name and phone", Numbers: "Registered numbers",
		Papers: "Legal form and papers", Addresses: "Addresses",
		Contacts: "Contacts", Officers: "Who may sign", Sponsored: "Sponsoring body"}[s]
}

// LeastContacts an organisation names.
const LeastContacts = 2

// Lack is something a step still needs.
type Lack struct {
	Step Step
	What string // a sentence
}

// Lacks lists what is missing or wrong. shown is how the papers stand, confirmed
// counts the officers who confirmed, needed how many the funder asks for.
func Lacks(k Kind, name string, f Facts, shown map[string]Shown, confirmed, needed int) (out []Lack) {
	lack := func(s Step, what string) { out = append(out, Lack{s, what}) }
	if n := utf8.RuneCountInString(strings.TrimSpace(name)); n < 2 || n > 120 {
		lack(Details, "It needs a name.")
	}
	if k == Body && len(f.Numbers) == 0 {
		lack(Numbers, "Give at least one number under which a register knows it.")
	}
	for _, n := range f.Numbers {
		if says := CheckNumber(n); says != "" {
			lack(Numbers, says)
		}
	}
	if k == Body {
		for _, says := range lackPapers(f.Form, shown) {
			lack(Papers, says)
		}
	}
	if _, ok := calendar.ParseDate(f.Born); f.Born != "" && !ok {
		lack(Details, "“"+f.Born+"” cannot be read as a date. Write it like 1 July 2007.")
	}
	switch {
	case f.Seat.Street == "" || f.Seat.Town == "":
		lack(Addresses, "Give the street and town where it is.")
	case address.IsBox(f.Seat.Street):
		lack(Addresses, "“"+f.Seat.Street+"” is a box. Give the street where it is; letters may go to a box.")
	}
	if k == Person {
		return out
	}
	if len(f.Contacts) < LeastContacts {
		lack(Contacts, "Name at least two people to write to, so that one of them can always be reached.")
	}
	seen := map[string]bool{}
	for _, c := range f.Contacts {
		e := strings.ToLower(c.Email)
		if seen[e] {
			lack(Contacts, "“"+c.Email+"” stands there twice. Two contacts need two addresses.")
		}
		seen[e] = true
	}
	if confirmed < needed {
		lack(Officers, officersLeft(confirmed, needed))
	}
	return out
}

func officersLeft(confirmed, needed int) string {
	if confirmed == 0 && needed == 1 {
		return "One of its officers must confirm, by a link of their own."
	}
	words := []string{"none", "one", "two", "three", "four", "five"}
	word := func(n int) string {
		if n < len(words) {
			return words[n]
		}
		return "more"
	}
	return "Of its officers " + word(needed) + " must confirm, each by a link of their own; " + word(confirmed) +
		" has so far."
}

// CheckNumber says what is wrong with a registered number; "" when nothing is.
func CheckNumber(n Number) string {
	s, ok := identifier.FindOfBodies(n.Scheme)
	if !ok {
		return "Choose which register the number “" + n.Value + "” is of."
	}
	if _, ok := s.Normal(n.Value); !ok && s.Key == identifier.Local {
		return "“" + n.Value +
			"” cannot be read. Write the name of the register, a colon and the number there: Register of Associations, Tarl: 4711."
	}
	if _, ok := s.Normal(n.Value); !ok {
		return "“" + n.Value + "” is not a " + s.Label + ": its check digits do not fit. Look at it again."
	}
	return ""
}

// Finding of a look-up in a register.
type Finding string

// The findings.
const (
	NotLookedUp Finding = ""
	Found       Finding = "found"
	OtherName   Finding = "other name" // there under another name
	StruckOff   Finding = "struck off"
	NotThere    Finding = "not there"
	NoAnswer    Finding = "no answer" // the register does not answer; it is asked again
	ByHand      Finding = "by hand"   // a register that nobody can ask from here: the office looks it up
)

// Judge what a register said of a number. register is the name it has there;
// names are compared without case, punctuation and blanks.
func Judge(name, legal, register string, struckOff bool) Finding {
	switch {
	case struckOff:
		return StruckOff
	case plain(register) == plain(name) || legal != "" && plain(register) == plain(legal):
		return Found
	}
	return OtherName
}

func plain(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\'' || r == '’' || r == '.' || r == ',' || r == ' ' || r == '-':
			return -1
		}
		return r
	}, strings.ToLower(s))
}

// Stale is how long facts are good before they should be looked at again.
const Stale = 365 * 24 * time.Hour

// Field of a profile that a question can be filled from.
type Field string

// The fields.
const (
	FieldName     Field = "name"
	FieldNumber   Field = "number"
	FieldStreet   Field = "street"
	FieldTown     Field = "town"
	FieldPostcode Field = "postcode"
	FieldPhone    Field = "phone"
	FieldBorn     Field = "date of birth"
	FieldMail     Field = "mail"
	FieldSponsor  Field = "sponsoring body"
	FieldHeld     Field = "that a body holds the money" // yes, or nothing
)

// Others reports a field that others say, by a link of their own: an
// application cannot put it right, and to be without it is no gap.
func (f Field) Others() bool { return f == FieldSponsor || f == FieldHeld }

// Of reads a field; "" when the profile does not have it.
func (f Facts) Of(name string, field Field) string {
	post := f.Post
	if post.Empty() {
		post = f.Seat
	}
	switch field {
	case FieldName:
		if f.Legal != "" {
			return f.Legal
		}
		return name
	case FieldNumber:
		if len(f.Numbers) > 0 {
			return f.Numbers[0].Value
		}
	case FieldStreet:
		return post.Street
	case FieldTown:
		return post.Town
	case FieldPostcode:
		return post.Postcode
	case FieldPhone:
		return f.Phone
	case FieldBorn:
		return f.Born
	case FieldSponsor:
		return f.Sponsor
	case FieldHeld:
		if f.Sponsor != "" {
			return "yes"
		}
	case FieldMail:
		if len(f.Contacts) > 0 {
			return f.Contacts[0].Email
		}
	}
	return ""
}

// Fills pairs the places of a question with the fields it is filled from; nil
// for a question that says nothing of a profile.
func Fills(q *form.Question) map[form.Place]Field {
	at := form.Place{Question: q.Key}
	switch q.Profile {
	case form.ProfileName:
		return map[form.Place]Field{at: FieldName}
	case form.ProfileNumber:
		return map[form.Place]Field{at: FieldNumber}
	case form.ProfilePhone:
		return map[form.Place]Field{at: FieldPhone}
	case form.ProfileHolder:
		if q.Type() == condition.TypeYes {
			return map[form.Place]Field{at: FieldHeld}
		}
		return map[form.Place]Field{at: FieldSponsor}
	case form.ProfileBorn:
		return map[form.Place]Field{at: FieldBorn}
	case form.ProfileMail:
		return map[form.Place]Field{at: FieldMail}
	case form.ProfilePost:
		out := map[form.Place]Field{}
		for col, f := range map[form.Key]Field{"street": FieldStreet, "town": FieldTown, "postcode": FieldPostcode} {
			out[form.Place{Question: q.Key, Column: col}] = f
		}
		return out
	}
	return nil
}

// Difference is a place where an application says something else than its
// profile.
type Difference struct {
	Place                form.Place
	Field                Field
	Profile, Application string
}

// Differences between a profile and what an application answers; where either
// says nothing there is none.
func Differences(f *form.Form, name string, facts Facts, answers map[form.Place]form.Answer) (out []Difference) {
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			for at, field := range Fills(&s.Questions[i]) {
				p, a := facts.Of(name, field), strings.TrimSpace(answers[at].Raw)
				if p != "" && a != "" && !same(f, &s.Questions[i], p, a) {
					out = append(out, Difference{at, field, p, a})
				}
			}
		}
	}
	return out
}

// same reports two texts that answer a question alike: a date or a phone number
// however it is typed, names without case, punctuation and blanks.
func same(f *form.Form, q *form.Question, a, b string) bool {
	if form.KindOf(q.Kind).Normal {
		x, okX := f.Read(q, a)
		y, okY := f.Read(q, b)
		if okX && okY {
			return x.Date == y.Date && x.Text == y.Text
		}
	}
	return plain(a) == plain(b)
}

// Filled are the answers that a profile gives to a form.
func Filled(f *form.Form, name string, facts Facts) map[form.Place]form.Answer {
	out := map[form.Place]form.Answer{}
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			for at, field := range Fills(&s.Questions[i]) {
				if v := facts.Of(name, field); v != "" {
					out[at] = form.Answer{Raw: v}
				}
			}
		}
	}
	return out
}

// With is the facts with one field set to what an application says, and the
// name that goes with them.
func (f Facts) With(name string, field Field, value string) (string, Facts) {
	post := &f.Post
	if f.Post.Empty() {
		post = &f.Seat
	}
	switch field {
	case FieldName:
		if f.Legal != "" {
			f.Legal = value
		} else {
			name = value
		}
	case FieldNumber:
		f.Numbers = append([]Number(nil), f.Numbers...)
		if len(f.Numbers) > 0 {
			f.Numbers[0].Value = value
		}
	case FieldStreet:
		post.Street = value
	case FieldTown:
		post.Town = value
	case FieldPostcode:
		post.Postcode = value
	case FieldPhone:
		f.Phone = value
	case FieldBorn:
		f.Born = value
	case FieldMail:
		f.Contacts = append([]Contact(nil), f.Contacts...)
		if len(f.Contacts) > 0 {
			f.Contacts[0].Email = value
		}
	}
	return name, f
}

// Gaps lists the fields that a form would be filled from and the profile does
// not have, each once.
func Gaps(f *form.Form, name string, facts Facts) (out []Field) {
	seen := map[Field]bool{}
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			for _, field := range Fills(&s.Questions[i]) {
				if !seen[field] && !field.Others() && facts.Of(name, field) == "" {
					out = append(out, field)
				}
				seen[field] = true
			}
		}
	}
	slices.Sort(out)
	return out
}

// FilledIn says, as an application begins, what a profile filled in: that its
// facts are old comes first, then what it does not have. age is since the facts
// were last looked at.
func FilledIn(f *form.Form, name string, facts Facts, age time.Duration) string {
	if age > Stale {
		return "The profile of " + name + " was last looked at more than a year ago: look through what it filled in."
	}
	var gaps []string
	for _, g := range Gaps(f, name, facts) {
		gaps = append(gaps, string(g))
	}
	if gaps == nil {
		return "Filled in from the profile of " + name + "."
	}
	return "The profile of " + name + " filled it in, except for what it does not have: " + strings.Join(gaps, ", ") + "."
}
