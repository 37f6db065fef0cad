package say

import (
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/request"
)

// RequestOf is what a request to somebody who answers by a link is about. What
// is said is heard by that person, who may never have heard of the round.
type RequestOf struct {
	Form     *form.Form
	Question *form.Question
	Name     string // whom it goes to
	Lead     string // who asks
	Round    string
	Title    string // of the application
	Knows    string // what who asks says of them
	Due      time.Time
	Waived   *bool
	Contact  *bool
	Link     string // stands where their link goes
	Sender   string // of the mail
}

func (r RequestOf) ask() form.Ask {
	if r.Question == nil || r.Question.Ask == nil {
		return form.Ask{}
	}
	return *r.Question.Ask
}

func (r RequestOf) confirms() bool { return r.Question != nil && r.Question.Confirms() }

// What is asked of them, as a sentence.
func (r RequestOf) What() string {
	wants := r.ask().Wants
	switch {
	case wants != "":
		return wants
	case r.confirms():
		return "That you agree."
	}
	return "What do you know of the people and of their work? Will they do what they say?"
}

// Use is what happens with their answer.
func (r RequestOf) Use() string {
	switch use := r.ask().Use; {
	case use != "":
		return use
	case r.confirms():
		return "Your word stands with the application, with the day and the minute. The office and those who judge it see it."
	}
	return "The office and those who judge the application read it."
}

// Sight says whether whoever asks may read what they send; "" for a
// confirmation, which holds nothing but their word.
func (r RequestOf) Sight() string {
	a := r.ask()
	switch {
	case r.confirms():
		return ""
	case a.Reads(r.Waived):
		return r.Lead + " may read it once you have sent it."
	case a.Sight == form.SightChosen:
		return r.Lead + " has given up the right to read it, and will not be shown it."
	}
	return r.Lead + " is not shown it."
}

// Touch says whether the office may get in touch with them; "" when that was
// not asked.
func (r RequestOf) Touch() string {
	switch {
	case r.Contact == nil:
		return ""
	case *r.Contact:
		return r.Lead + " allows the office to get in touch with you about it."
	}
	return "The office does not get in touch with you about it."
}

// After is what they hear or see once it is sent.
func (r RequestOf) After() string {
	if after := r.ask().After; after != "" {
		return after
	}
	if r.confirms() {
		return r.Lead + " hears that you confirmed it. This page keeps what you confirmed, for you to read and print."
	}
	return "You get a mail that it is in, and " + r.Lead + " hears that it is. How the application ends is for " + r.Lead +
		" to tell you."
}

// Kind of person they are asked as, in a few words; "" when the round says nothing.
func (r RequestOf) Kind() string { return r.ask().Who }

// Request is the mail that asks them: who, for whom, for what, by when, what
// happens with it.
func Request(r RequestOf) (subject, body string) {
	due := calendar.WallOf(r.Due, r.Form.Zone).Words()
	subject = r.Lead + " asks you for a letter: “" + r.Title + "”"
	asks := " and names you as somebody who can vouch for it"
	what := "What is asked: a letter, written in a box or put up as a file. What it should say: " + r.What()
	if r.confirms() {
		subject = r.Lead + " asks you to confirm something for “" + r.Title + "”"
		asks = " and asks you to confirm one thing"
		what = "What you would confirm: " + r.What()
	}
	if r.Form.Theirs(r.Question.Key) != nil {
		what += " There are a few questions to answer beside it."
	}
	if needs := LetterNeeds(r.Question.Ask); needs != "" {
		what += " " + needs
	}
	body = "Dear " + r.Name + ",\n\n" + r.Lead + " is applying to “" + r.Round + "” of " + r.Sender + " with “" + r.Title +
		"”" + asks + ". Of you it says: “" + r.Knows + "”.\n\n" + what +
		"\n\nYou need no account. This link is yours alone; it shows everything that is asked of you here:\n\n" + r.Link +
		"\n\nIt is needed by " + due + ". " + joined(r.Use(), r.Sight(), r.Touch()) +
		"\n\nIf you cannot do it, say so there, so that somebody else can be asked in time. An answer to this mail goes to " +
		r.Lead + ".\n\n" + r.Sender + "\n"
	return subject, body
}

// Reminder is the mail that reminds them; last says that the round allows no
// other after it.
func Reminder(r RequestOf, s form.LetterState, last bool) (subject, body string) {
	thing, open := "letter", "A letter from you is still awaited."
	if r.confirms() {
		thing, open = "confirmation", "Your confirmation is still awaited."
	}
	switch {
	case s == form.Uploaded:
		open = "Your letter is put up but NOT SENT. It counts only once you open the page and press Send."
	case s == form.Accepted:
		open = "You said yes; the letter has not come yet."
	}
	body = "Dear " + r.Name + ",\n\n" + open + " It is for " + r.Lead + " and “" + r.Title + "”, and needed by " +
		calendar.WallOf(r.Due, r.Form.Zone).Words() + ".\n\n" + r.Link + "\n\n"
	if last {
		body += "This is the last reminder you get for it. "
	}
	return "Still open: a " + thing + " for “" + r.Title + "”", body + "If you cannot do it, say so on the page.\n\n" +
		r.Sender + "\n"
}

// Joined puts sentences together that are there.
func joined(says ...string) (out string) {
	for _, s := range says {
		out = join(out, s)
	}
	return out
}

// NotReminded says to whoever pressed it why somebody is not reminded.
func NotReminded(name string, why request.Refusal, most int) string {
	switch why {
	case request.Enough:
		return name + " has had all the reminders this round allows, " + phrase.Count(int64(most), "of them", "of them") +
			". Write to them yourself"
	case request.TooSoon:
		return name + " was reminded within the last day. Wait until tomorrow, or write to them yourself"
	case request.Over:
		return "the time of " + name + " is over. The office can give more"
	}
	return "nothing is awaited of " + name
}

// Bounced says why a mail came back, from its status (RFC 3463): the class and
// subject are told, the rest is the mail server's own words.
func Bounced(status string) string {
	switch {
	case status == "5.1.1" || status == "5.1.10":
		return "There is no such mailbox."
	case status == "5.1.2":
		return "There is no such domain, or it takes no mail."
	case status == "5.1.3":
		return "The address is not one that mail can go to."
	case len(status) > 3 && status[2] == '2':
		return "The mailbox is full or closed."
	case len(status) > 3 && status[2] == '7':
		return "Their mail server refuses mail from us."
	}
	return "Their mail server did not take it."
}

// Theirs are the answers of a person who answered by a link: a line each,
// question and answer.
func Theirs(t *form.Form, filled *form.Filled) (out []string) {
	path := t.Walk(filled)
	for _, s := range t.Design.Sections {
		for i := range s.Questions {
			q := &s.Questions[i]
			if st := path.Find(q.Key); st != nil {
				if text := Answer(t, q, filled, st); text != "" {
					out = append(out, q.Label+": "+text)
				}
			}
		}
	}
	return out
}
