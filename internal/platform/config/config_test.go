package config

import (
	"os"
	"strings"
	"testing"
)

func TestWrongSettingsAreRefusedWithASentence(t *testing.T) {
	none := func(string) string { return "" }
	if c, _, err := Load(nil, none); err != nil || c.ConfirmLife.Hours() != 48 {
		t.Fatalf("the defaults: %v", err)
	}
	for flag, value := range map[string]string{"connections": "many", "confirm-life": "-1h", "base-url": "example.org",
		"data": "here", "key": "abcd", "pg-port": "80"} {
		_, _, err := Load([]string{"--" + flag, value}, none)
		if err == nil || !strings.Contains(err.Error(), flag) {
			t.Errorf("--%s %s: %v", flag, value, err)
		}
	}
}

func TestSettingsAreDocumented(t *testing.T) {
	doc, err := os.ReadFile("../../../docs/settings.md")
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range Settings() {
		if !strings.Contains(string(doc), "| `"+s.Env+"` | `--"+s.Flag+"` | ") || !strings.Contains(string(doc), s.Means) {
			t.Errorf("docs/settings.md lacks %s (--%s): %s", s.Env, s.Flag, s.Means)
		}
	}
}
