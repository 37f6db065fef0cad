package web_test

import (
	"testing"

	"ulvant/internal/programtest"
	"ulvant/internal/web"
)

// A site that is stopped as it starts stops: nobody waits for a server that has not begun
// to serve.
func TestStoppedAsItStarts(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	for range 3 {
		s, err := web.New(h.Program, h.Tray)
		if err != nil {
			t.Fatal(err)
		}
		if err := s.Listen("127.0.0.1:0"); err != nil {
			t.Fatal(err)
		}
		if err := s.Stop(); err != nil {
			t.Error(err)
		}
	}
}
