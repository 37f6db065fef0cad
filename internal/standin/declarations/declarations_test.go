package declarations_test

import (
	"io"
	"net/http"
	"strings"
	"testing"

	"ulvant/internal/standin/declarations"
)

func TestWhatTheServiceAnswers(t *testing.T) {
	s, err := declarations.Start("127.0.0.1:0", []declarations.Declaration{
		{
			Reference: "HD-1",
			State:     "settled",
			Sums:      map[string]string{"2025": "41,200.50"},
		}, {Reference: "HD-2", State: "pending"}})
	if err != nil {
		t.Fatal(err)
	}
	defer s.Stop()
	for _, c := range []struct {
		path   string
		silent bool
		status int
		says   string
	}{
		{"/HD-1", false, 200, `{"state":"settled","sums":{"2025":"41,200.50"}}`},
		{"/HD-2", false, 200, `{"state":"pending"}`},
		{"/HD-3", false, 404, "not found"},
		{"/HD-1", true, 503, "not now"},
	} {
		s.Silent.Store(c.silent)
		res, err := http.Get("http://" + s.Addr + c.path)
		if err != nil {
			t.Fatal(err)
		}
		body, _ := io.ReadAll(res.Body)
		res.Body.Close()
		if res.StatusCode != c.status || !strings.Contains(string(body), c.says) {
			t.Errorf("%s, silent %v: %d %s", c.path, c.silent, res.StatusCode, body)
		}
	}
	if _, err := declarations.Start("0.0.0.0:0", nil); err == nil {
		t.Error("it listens for everybody")
	}
}
