package letter

import "testing"

func TestFill(t *testing.T) {
	got, err := Fill("Dear {{name}}, {{ title }} ({{ref}})",
		map[string]string{"name": "Ysolde {{ref}} Fenn", "title": "Reed beds", "ref": "SPR-0417-9"})
	if err != nil || got != "Dear Ysolde {{ref}} Fenn, Reed beds (SPR-0417-9)" {
		t.Errorf("%q %v", got, err)
	}
	if _, err := Fill("{{amount}}", nil); err == nil {
		t.Error("a missing amount was left empty")
	}
	if u := Unknown("{{name}} {{shoe-size}}"); len(u) != 1 || u[0] != "shoe-size" {
		t.Errorf("unknown: %v", u)
	}
}
