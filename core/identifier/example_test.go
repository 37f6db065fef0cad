package identifier_test

import (
	"fmt"

	"ulvant/core/identifier"
)

// A reference number carries a check digit (ISO 7064, MOD 37,36), so that one
// sign misread on the telephone is noticed.
func ExampleRef() {
	ref := identifier.Ref("SPR", 142)
	fmt.Println(ref)
	_, ok := identifier.ParseRef(ref[:len(ref)-1] + "0")
	fmt.Println(ok)
	// Output:
	// SPR-0142-7
	// false
}
