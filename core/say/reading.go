package say

import (
	"ulvant/core/calendar"
	"ulvant/core/phrase"
)

// CasesWait tells a reader that cases were given to them, to be read by a day.
func CasesWait(name, round, funder string, n int, by calendar.Date) (subject, body string) {
	cases := phrase.Count(int64(n), "case waits", "cases wait")
	return cases + " for you to read", "Dear " + name + ",\n\n" + cases + " for you in " + round +
		". Please mark them by " + by.Words() +
		".\n\nIf you know the people behind one of them, step aside from it there; it goes to somebody else." +
		"\n\n" + funder + "\n"
}

// TakenOff tells a reader that nothing waits for them any more.
func TakenOff(name, round, funder string) (subject, body string) {
	return "Nothing waits for you to read any more", "Dear " + name + ",\n\nyou need not read any more for " + round +
		". What you have sent stands, with our thanks; what you have not sent is read by somebody else.\n\n" + funder + "\n"
}

// ReadersLate reminds a reader of what is not marked yet.
func ReadersLate(name, round, funder string, n int, by calendar.Date, late bool) (subject, body string) {
	cases := phrase.Count(int64(n), "case", "cases")
	when := "by " + by.Words()
	if late {
		when = "by " + by.Words() + ", which is over"
	}
	return cases + " in " + round + " not marked yet", "Dear " + name + ",\n\n" + cases +
		" you have not sent marks for were to be read " + when +
		". Please send them as soon as you can, or tell us if you cannot: somebody else can read them." +
		"\n\n" + funder + "\n"
}

// MarksReopened tells a reader that marks they have sent can be changed, and why.
func MarksReopened(name, title, why, funder string) (subject, body string) {
	return "Your marks for “" + title + "” are open again", "Dear " + name + ",\n\nyour marks for “" + title +
		"” can be changed, and are to be sent once more. The reason: " + why + "\n\n" + funder + "\n"
}

// TalkOpened asks a reader to talk a case over with its other readers.
func TalkOpened(name, title, why, funder string) (subject, body string) {
	return "Talk “" + title + "” over with its other readers", "Dear " + name + ",\n\nthe marks of “" + title +
		"” are to be talked over by those who gave them: " + why +
		"\n\nYou see what the others gave, and can change yours. Send them once more when you " +
		"have talked; what you gave at first is kept beside them.\n\n" + funder + "\n"
}

// CaseTaken tells a reader that a case was taken from them, and why.
func CaseTaken(name, title, why, funder string) (subject, body string) {
	return "You need not read “" + title + "” any more", "Dear " + name + ",\n\n“" + title +
		"” is with you no longer. The reason: " + why + "\n\n" + funder + "\n"
}

// SampleApart says how near a reader’s marks of the sample case lie to the office’s: same
// and far as reading.Sample counts them.
func SampleApart(same, far, of int) string {
	switch {
	case of == 0:
		return "Nothing can be compared."
	case same == of:
		return "All marks are the same."
	case far == 0:
		return phrase.Count(int64(same), "mark is", "marks are") + " the same, the others a step apart."
	}
	return phrase.Count(int64(far), "mark is", "marks are") + " more than a step apart; " +
		phrase.Count(int64(same), "is", "are") + " the same."
}
