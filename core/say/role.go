package say

import (
	"strings"
	"time"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/phrase"
)

// HeldRole is a role as it is said: where it holds by the names that people know.
type HeldRole struct {
	Role      access.Role
	Programme string
	Round     string // its name
	Place     string
	Body      string // its label
	Award     string // its label
	Until     *time.Time
	Zone      *time.Location
}

// Role says what somebody is: “checks in Shore & Peat, of Tarl alone, until Friday
// 4 December 2026”.
func Role(h HeldRole) string {
	return string(h.Role) + " " + h.Where() + h.until()
}

// Where a role holds.
func (h HeldRole) Where() string {
	switch {
	case h.Award != "":
		return "“" + h.Award + "” in " + h.Round
	case h.Body != "":
		return "“" + h.Body + "” in " + h.Round
	case h.Place != "":
		return "in " + h.Round + ", of “" + h.Place + "” alone"
	case h.Round != "":
		return "in " + h.Round
	case h.Programme != "":
		return "in every round of " + h.Programme
	}
	return "in the whole office"
}

func (h HeldRole) until() string {
	if h.Until == nil {
		return ""
	}
	w := calendar.WallOf(*h.Until, h.Zone)
	if w == calendar.At(w.Date, 0, 0) { // people count the day before as the last
		return ", until the end of " + w.Date.AddDays(-1).Words()
	}
	return ", until " + w.Words()
}

// AskedTo says what somebody is asked to do, after “asks you”: “to check, in the
// whole office, until the end of 4 December 2026”.
func AskedTo(h HeldRole) string {
	do := map[access.Role]string{
		access.RunsRounds: "to run rounds", access.LooksAfter: "to look after cases", access.Checks: "to check",
		access.PreparesMoney: "to prepare money", access.ReleasesMoney: "to release money",
		access.Chairs: "to chair the panel",
		access.Sits:   "to sit on the panel", access.Reviews: "to review for", access.LooksOnly: "to look on",
		access.Gives: "to follow the award that you give,",
	}[h.Role]
	if h.Role != access.Reviews && h.Role != access.Gives {
		do += ","
	}
	return do + " " + h.Where() + h.until()
}

// MayDo says what a role lets somebody see and do; you: to themselves.
func MayDo(r access.Role, you bool) string {
	var sees, does []string
	for _, a := range r.Acts() {
		if what, ok := strings.CutPrefix(string(a), "see "); ok {
			sees = append(sees, what)
		} else {
			does = append(does, string(a))
		}
	}
	see, may := "Sees ", " May "
	if you {
		see, may = "You see ", " You may "
	}
	out := see + phrase.List(sees) + "."
	if len(does) > 0 {
		out += may + phrase.List(does) + "."
	}
	return out
}

// RoleMeans says in a line what a role is for, where it is chosen.
func RoleMeans(r access.Role) string {
	return map[access.Role]string{
		access.RunsRounds:    "designs and opens rounds, hands out, decides, gives roles; every other role is part of it",
		access.LooksAfter:    "answers applicants, nudges them, gives more time, hands back",
		access.Checks:        "settles rules, asks applicants, looks organisations over",
		access.PreparesMoney: "settles fees and proposes to give money back",
		access.ReleasesMoney: "agrees to what somebody else proposed",
		access.Chairs:        "decides, and holds letters or lets them go",
		access.Sits:          "sees the round and its cases, and writes notes about them",
		access.Reviews:       "of a second body: reviews the cases that are for it in its turn, and sees no others",
		access.LooksOnly:     "sees everything there and changes nothing",
		access.Gives:         "a donor: sees the award they give, and no application",
	}[r]
}

// RoleOffer is the mail to somebody who is asked to take a role.
func RoleOffer(name, by, office string, h HeldRole, link string) (subject, body string) {
	var out strings.Builder
	out.WriteString("Dear " + name + ",\n\n" + by + " of " + office + " asks you " + AskedTo(h) + ".\n\n" +
		"With that, " + phrase.LowerInitial(MayDo(h.Role, true)) +
		"\n\nNothing holds until you say yes. Press this link to say yes or no; it is yours alone:\n\n" +
		link + "\n")
	return "Would you work with us at " + office + "?", out.String()
}

// RoleTaken is the mail to somebody whose role was taken away.
func RoleTaken(name, by, office string, h HeldRole, why string) (subject, body string) {
	return "Your role at " + office, "Dear " + name + ",\n\n" + by + " has taken a role away from you: " + Role(h) +
		".\n\nThe reason: " + why + "\n\nWhat you did with it stands.\n"
}
