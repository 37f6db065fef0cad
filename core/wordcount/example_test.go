package wordcount_test

import (
	"fmt"

	"ulvant/core/wordcount"
)

func ExampleWords() {
	fmt.Println(wordcount.Words("Re-planting the reed bed – in two seasons."))
	// Output: 7
}
