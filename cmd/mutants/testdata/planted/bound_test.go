package planted

import "testing"

func TestWithin(t *testing.T) {
	for n, want := range map[int]bool{0: false, 1: true, 5: true, 10: false} { // 9 is not asked: its bound lives
		if Within(n) != want {
			t.Errorf("%d: %v", n, !want)
		}
	}
	if Count([]int{1, 2}) != 2 {
		t.Error("two are not two")
	}
}
