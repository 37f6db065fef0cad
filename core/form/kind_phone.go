package form

import (
	"github.com/nyaruka/phonenumbers"

	"ulvant/core/condition"
	"ulvant/core/control"
)

// homeRegion is the country of numbers typed without one, where a question names none.
const homeRegion = "IE"

// A phone number is kept in its form of E.164; Region is the country of those
// typed without one (numbering plans from github.com/nyaruka/phonenumbers).
var _ = register(kind{
	key: Phone, means: "Phone number, kept in one form", keeps: InText, typ: condition.TypeText, comparable: true,
	normal:  true,
	tells:   tellsPhone,
	members: []string{"region", "profile"}, begin: func(q *Question) { q.Region = homeRegion },
	compile: func(c *compiler, q *Question) {
		c.need(q.Region == "" || phonenumbers.GetCountryCodeForRegion(q.Region) != 0,
			"%q is not a country (ISO 3166, two letters)", q.Region)
	},
	read: readPhone, how: says("Write the whole number; from another country begin with + and its code."), words: asRead,
	note:   keptAs,
	values: anyText, example: exampleText("+353 1 555 0142"), tenths: takes(5), identifies: always,
	control: drawn(control.Line),
})

func readPhone(_ *Form, q *Question, raw string) (condition.Value, bool) {
	region := q.Region
	if region == "" {
		region = homeRegion
	}
	n, ok := PhoneNumber(raw, region)
	return condition.Value{Text: n}, ok
}

// PhoneNumber brings a phone number into its form of E.164. region is the country
// of one typed without its code, ISO 3166; "" takes none of those.
func PhoneNumber(raw, region string) (e164 string, ok bool) {
	n, err := phonenumbers.Parse(raw, region)
	if err != nil || !phonenumbers.IsPossibleNumber(n) {
		return "", false
	}
	return phonenumbers.Format(n, phonenumbers.E164), true
}
