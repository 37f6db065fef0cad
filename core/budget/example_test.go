package budget_test

import (
	"fmt"

	"ulvant/core/budget"
)

// Of a cost of 10,000.01 others pay at least 15%: rounded up, never in our favour.
func ExampleLeastMatch() {
	fmt.Println(budget.LeastMatch(1_000_001, 15))
	// Output: 150001
}
