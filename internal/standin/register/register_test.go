package register_test

import (
	"io"
	"net/http"
	"strings"
	"testing"

	"ulvant/internal/standin/register"
)

func TestWhatTheRegisterAnswers(t *testing.T) {
	r, err := register.Start("127.0.0.1:0", []register.Entry{{Scheme: "gb-charity", Number: "1", Name: "Common"},
		{Scheme: "gb-charity", Number: "2", Name: "Gone", Struck: true}})
	if err != nil {
		t.Fatal(err)
	}
	defer r.Stop()
	for _, c := range []struct {
		path   string
		silent bool
		status int
		says   string
	}{
		{"/gb-charity/1", false, 200, `{"name":"Common","struckOff":false}`},
		{"/gb-charity/2", false, 200, `{"name":"Gone","struckOff":true}`},
		{"/gb-charity/3", false, 404, "not found"},
		{"/ie-charity/1", false, 404, "not found"},
		{"/gb-charity/1", true, 503, "not now"},
	} {
		r.Silent.Store(c.silent)
		res, err := http.Get("http://" + r.Addr + c.path)
		if err != nil {
			t.Fatal(err)
		}
		body, _ := io.ReadAll(res.Body)
		res.Body.Close()
		if res.StatusCode != c.status || !strings.Contains(string(body), c.says) {
			t.Errorf("%s, silent %v: %d %s", c.path, c.silent, res.StatusCode, body)
		}
	}
	for _, addr := range []string{"0.0.0.0:0", "192.0.2.1:80", "x"} {
		if r, err := register.Start(addr, nil); err == nil {
			r.Stop()
			t.Errorf("it listens on %q", addr)
		}
	}
}
