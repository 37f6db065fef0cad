package say

// Security is a kind of event that touches the safety of an account.
type Security string

// The kinds of event.
const (
	Confirmed        Security = "confirmed"
	SignedIn         Security = "signed-in"
	WrongPassword    Security = "wrong-password"
	WrongCode        Security = "wrong-code"
	HeldOut          Security = "held-out"
	EnteredByMail    Security = "entered-by-mail"
	PasswordChanged  Security = "password-changed"
	PasswordReset    Security = "password-reset"
	AddressAsked     Security = "address-asked"
	AddressChanged   Security = "address-changed"
	LastingAsked     Security = "lasting-asked"
	LastingConfirmed Security = "lasting-confirmed"
	LastingEnded     Security = "lasting-ended"
	TextsAsked       Security = "texts-asked"
	TextsConfirmed   Security = "texts-confirmed"
	TextsEnded       Security = "texts-ended"
	SecondOn         Security = "second-on"
	SecondOff        Security = "second-off"
	RecoveryUsed     Security = "recovery-used"
	SessionsEnded    Security = "sessions-ended"
	OfficeGiven      Security = "office-given"
	OfficeTaken      Security = "office-taken"
)

var securities = map[Security]string{
	Confirmed:        "The address was confirmed and the password chosen.",
	SignedIn:         "Signed in.",
	WrongPassword:    "A wrong password was typed.",
	WrongCode:        "A wrong code was typed after the right password.",
	HeldOut:          "Held out after too many wrong tries from one place.",
	EnteredByMail:    "A link to sign in was pressed that went to the address.",
	PasswordChanged:  "The password was changed; every other session ended.",
	PasswordReset:    "A new password was chosen by a mail link; every session ended.",
	AddressAsked:     "A change of address was asked for.",
	AddressChanged:   "The address was changed.",
	LastingAsked:     "A second address was given.",
	LastingConfirmed: "The second address was confirmed.",
	LastingEnded:     "There is no second address any more.",
	TextsAsked:       "A number for text messages was given.",
	TextsConfirmed:   "The number for text messages was confirmed.",
	TextsEnded:       "There are no text messages any more.",
	SecondOn:         "The second factor was turned on.",
	SecondOff:        "The second factor was turned off.",
	RecoveryUsed:     "A recovery code was used.",
	SessionsEnded:    "Every other session was ended.",
	OfficeGiven:      "Holds a role at the office from now on.",
	OfficeTaken:      "Holds a role at the office no longer.",
}

// Securities lists every kind of event.
func Securities() []Security {
	out := make([]Security, 0, len(securities))
	for s := range securities {
		out = append(out, s)
	}
	return out
}

// Sentence says what happened; the kind itself when it is none of ours.
func (s Security) Sentence() string {
	if says, ok := securities[s]; ok {
		return says
	}
	return string(s)
}

// Grave reports an event that its owner should look at if it was not their own.
func (s Security) Grave() bool {
	switch s {
	case SignedIn, Confirmed, SessionsEnded:
		return false
	}
	return true
}
