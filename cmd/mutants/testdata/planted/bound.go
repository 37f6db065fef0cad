package planted

// Within reports a number from 1 to 9.
func Within(n int) bool { return n >= 1 && n <= 9 }

// Count counts up, and tells nobody whether it was asked before.
func Count(list []int) (n int) {
	asked = true
	for range list {
		n++
	}
	return n
}

var asked bool
