package web_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// No page shows what an error says of itself: site.Sentence and a refusal’s own
// Sentence say what may be said.
func TestNoErrorIsDrawnRaw(t *testing.T) {
	t.Parallel()
	raw := regexp.MustCompile(`\.Error\(\)`)
	var files []string
	err := filepath.WalkDir(".", func(path string, _ fs.DirEntry, err error) error {
		if filepath.Ext(path) == ".go" {
			files = append(files, path)
		}
		return err
	})
	if err != nil || len(files) < 60 {
		t.Fatal(len(files), err)
	}
	for _, f := range files {
		if strings.HasSuffix(f, "_test.go") {
			continue
		}
		b, err := os.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		for i, line := range strings.Split(string(b), "\n") {
			if raw.MatchString(line) {
				t.Errorf("%s:%d draws an error as it is: %s", f, i+1, strings.TrimSpace(line))
			}
		}
	}
}
