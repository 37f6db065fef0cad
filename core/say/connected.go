package say

import (
	"strconv"
	"strings"

	"ulvant/core/connected"
	"ulvant/core/personname"
	"ulvant/core/phrase"
)

// partWords say what somebody does in a case, or at the office.
var partWords = map[connected.Part]string{
	connected.Applicant: "applies", connected.Teammate: "is in the team", connected.Director: "is named among the people",
	connected.Supplier: "is to be paid", connected.Referee: "vouches", connected.Signatory: "confirms something",
	connected.Sponsor: "holds the money", connected.Reader: "reads", connected.Panel: "sits on a panel",
	connected.Staff: "works at the office", connected.Donor: "gives an award",
}

// EvidenceWord says one thing that agrees between two parties.
func EvidenceWord(e connected.Evidence) string {
	switch e.Kind {
	case connected.Number:
		return "the same number (" + e.What + ")"
	case connected.Mail:
		return "the same mailbox (" + e.What + ")"
	case connected.Phone:
		return "the same telephone (+" + e.What + ")"
	case connected.Address:
		return "the same address"
	case connected.Domain:
		return "mail under the same domain (" + e.What + ")"
	}
	switch personname.Near(e.Near) {
	case personname.Equal:
		return "the same name"
	case personname.Misspells:
		return "names a slip apart"
	case personname.Sounds:
		return "names that sound alike"
	}
	return "names that agree but for an initial"
}

// ConnectedEnd is one of two who may belong together, and where. Ref is "" for
// whoever judges.
type ConnectedEnd struct {
	Name, Ref string
	Part      connected.Part
}

func (e ConnectedEnd) where(here string) string {
	out := "“" + e.Name + "” " + partWords[e.Part]
	switch e.Ref {
	case "":
	case here:
		out += " here"
	default:
		out += " in " + e.Ref
	}
	return out
}

// Connected explains a claim that two belong together, for a page of one case, or
// of none ("").
func Connected(a, b ConnectedEnd, same, bodies bool, evidence []connected.Evidence, here string) string {
	if b.Ref == here && here != "" {
		a, b = b, a // what is here first
	}
	out := a.where(here) + " and " + b.where(here)
	var list []string
	for _, e := range evidence {
		list = append(list, EvidenceWord(e))
	}
	one := "person"
	if bodies {
		one = "body"
	}
	if same {
		return out + ". They may be the same " + one + ": " + phrase.List(list) + "."
	}
	if len(list) == 1 && strings.HasPrefix(list[0], "the same") {
		return out + ". They have " + list[0] + "."
	}
	return out + ". They have " + phrase.List(list) + "."
}

// Alike says how much two texts share: contained between 0 and 1, shared in words.
func Alike(contained float64, shared int) string {
	return phrase.Count(int64(shared), "word stands", "words stand") + " in passages that both have; " +
		strconv.Itoa(int(contained*100+.5)) + "% of the shorter text is in the other"
}

// Texts of an application that are like another’s.
func Texts(question, ref, round string, contained float64, shared int) string {
	return "“" + question + "” is like what " + ref + " says in " + round + ": " + Alike(contained, shared) + "."
}
