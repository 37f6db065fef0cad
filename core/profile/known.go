package profile

// Unknown says what a checker must look at of whoever an application is for; ""
// for a person, and for an organisation that the office knows.
func Unknown(k Kind, name string, s State) string {
	if k != Body || s == Known {
		return ""
	}
	switch s {
	case Waiting:
		return "The profile of “" + name + "” waits to be looked over. Look it over, then settle this."
	case SentBack:
		return "The profile of “" + name +
			"” was sent back and has not come in again. Ask for it, or look at the organisation here."
	}
	return "The profile of “" + name +
		"” was never handed to the office, and no register knows it. Ask for it, or look at the organisation here."
}

// NotYetKnown says to whoever begins an application for an organisation that the
// office does not know it yet, and what that means; "" for one it knows.
func NotYetKnown(k Kind, name string, s State) string {
	if k != Body || s == Known {
		return ""
	}
	then := " You can write and send; before the application can be found eligible, the office must have settled it."
	switch s {
	case Waiting:
		return "The office is looking “" + name + "” over." + then
	case SentBack:
		return "The profile of “" + name + "” was sent back to you; mend it and hand it in again." + then
	}
	return "The profile of “" + name + "” was never handed to the office, so nobody has looked it up in the register." +
		then
}
