package money_test

import (
	"fmt"

	"ulvant/core/money"
)

// People write sums in many ways; a currency says how many decimals it takes.
func ExampleParse() {
	for _, typed := range []string{"64,000", "1.250,50", "€ 12", "12.345"} {
		n, ok := money.Parse(typed, "EUR")
		fmt.Println(typed, "→", n, ok)
	}
	// Output:
	// 64,000 → 6400000 true
	// 1.250,50 → 125050 true
	// € 12 → 1200 true
	// 12.345 → 1234500 true
}

func ExampleFormat() {
	fmt.Println(money.Format(125_050, "EUR"), money.Format(125_050, "JPY"))
	// Output: €1,250.50 JP¥125,050
}
