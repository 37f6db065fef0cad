package say

import "ulvant/core/profile"

// RegisterSays says what a register has under a number; name is the one it has there.
func RegisterSays(number string, f profile.Finding, name string) string {
	switch f {
	case profile.Found:
		return number + " is in the register as “" + name + "”."
	case profile.OtherName:
		return number + " is in the register under another name: “" + name + "”."
	case profile.StruckOff:
		return number + " was struck off the register."
	case profile.NotThere:
		return "The register has no " + number + "."
	case profile.ByHand:
		return number + " is in a register that cannot be asked from here."
	}
	return "The register does not answer about " + number + "; it is asked again."
}

// RegisterTurned says that a register has changed its mind.
func RegisterTurned(number string, was, is profile.Finding, name string) string {
	word := map[profile.Finding]string{profile.Found: "found", profile.OtherName: "found under another name",
		profile.StruckOff: "struck off", profile.NotThere: "not there"}[was]
	return "Before, " + number + " was " + word + ". Now: " + RegisterSays(number, is, name)
}
