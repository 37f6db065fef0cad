package tus_test

import (
	"context"
	"errors"
	"io"
	"net/http"
	"testing"

	"ulvant/internal/platform/tus"
)

// memory keeps one upload, and fails where it is told to.
type memory struct {
	length   int64
	body     []byte
	finished int
	fails    error
}

func (m *memory) Begin(_ context.Context, length int64, meta map[string]string) (string, error) {
	m.length, m.body = length, []byte{}
	return "id-" + meta["filename"], m.fails
}

func (m *memory) Find(_ context.Context, id string) (tus.Upload, error) {
	if id != "id-a" || m.body == nil {
		return tus.Upload{}, tus.ErrNotFound
	}
	return tus.Upload{Length: m.length, Offset: int64(len(m.body))}, nil
}

func (m *memory) Write(_ context.Context, _ string, _ int64, r io.Reader) (int64, error) {
	if m.fails != nil {
		return 0, m.fails
	}
	b, err := io.ReadAll(r)
	m.body = append(m.body, b...)
	return int64(len(b)), err
}

func (m *memory) Finish(context.Context, string) error { m.finished++; return m.fails }
func (m *memory) Drop(context.Context, string) error   { m.body = nil; return m.fails }

// The steps of tus 1.0.0, sections "Core Protocol", "Creation" and "Termination", in
// their order; what the keeper says went wrong is given back to whoever called.
func TestServe(t *testing.T) {
	broken := errors.New("the disk is full")
	m := &memory{}
	const octets = "application/offset+octet-stream"
	for _, s := range []struct {
		what, method, path, body string
		header                   map[string]string
		fails                    error
		status                   int
		name, value              string // a header of the answer
	}{
		{"room for two bytes", "POST", "/up/", "", map[string]string{"Upload-Length": "2",
			"Upload-Metadata": "filename YQ=="}, nil, 201, "Location", "/up/id-a"},
		{"how far it is", "HEAD", "/up/id-a", "", nil, nil, 200, "Upload-Offset", "0"},
		{"a byte", "PATCH", "/up/id-a", "x", map[string]string{"Upload-Offset": "0", "Content-Type": octets}, nil, 204,
			"Upload-Offset", "1"},
		{"the same byte", "PATCH", "/up/id-a", "x", map[string]string{"Upload-Offset": "0", "Content-Type": octets}, nil,
			409, "", ""},
		{"a keeper that fails", "PATCH", "/up/id-a", "y", map[string]string{"Upload-Offset": "1", "Content-Type": octets},
			broken, 500, "", ""},
		{"the last byte", "PATCH", "/up/id-a", "y", map[string]string{"Upload-Offset": "1", "Content-Type": octets}, nil, 204,
			"Upload-Offset", "2"},
		{"another's", "HEAD", "/up/id-b", "", nil, nil, 404, "", ""},
		{"given up", "DELETE", "/up/id-a", "", nil, nil, 204, "", ""},
		{"and gone", "HEAD", "/up/id-a", "", nil, nil, 404, "", ""},
		{"what is not of the protocol", "PUT", "/up/id-a", "", nil, nil, 405, "", ""},
	} {
		m.fails = s.fails
		q := tus.Request{Method: s.method, Path: s.path, Body: []byte(s.body),
			Header: http.Header{"Tus-Resumable": {"1.0.0"}}}
		for k, v := range s.header {
			q.Header.Set(k, v)
		}
		out, err := tus.Serve(context.Background(), m, "/up/", q)
		if !errors.Is(err, s.fails) || out.Status != s.status || s.name != "" && out.Header.Get(s.name) != s.value {
			t.Errorf("%s: %v %+v", s.what, err, out)
		}
	}
	if m.finished != 1 {
		t.Errorf("it was finished %d times", m.finished)
	}
}
