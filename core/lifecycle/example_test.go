package lifecycle_test

import (
	"fmt"

	"ulvant/core/lifecycle"
)

// A state is asked what it counts as; nobody lists states.
func ExampleWith() {
	fmt.Println(lifecycle.With(lifecycle.Queried))
	fmt.Println(lifecycle.Eligible.Is(lifecycle.In), lifecycle.Withdrawn.Is(lifecycle.In))
	fmt.Println(lifecycle.MoveIn(lifecycle.Complete))
	// Output:
	// [handed back]
	// true false
	// office
}
