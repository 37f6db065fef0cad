package journey_test

import (
	"bytes"
	"encoding/base64"
	"net/http"
	"strconv"
	"testing"

	"ulvant/internal/web/webtest"
)

// pieces sends one file by hand, as tus 1.0.0 says.
type pieces struct {
	*webtest.Visitor
	token, at string
}

func (p *pieces) asks(method, path string, body []byte, header ...string) *http.Response {
	p.T.Helper()
	req, err := http.NewRequest(method, p.Base+path, bytes.NewReader(body))
	if err != nil {
		p.T.Fatal(err)
	}
	header = append(header, "Tus-Resumable", "1.0.0", "X-Form-Token", p.token, "Accept", "application/json")
	for i := 0; i < len(header); i += 2 {
		req.Header.Set(header[i], header[i+1])
	}
	res, err := p.Do(req)
	if err != nil {
		p.T.Fatal(err)
	}
	res.Body.Close()
	return res
}

// beginsFile asks for room in the slot for a plan.
func beginsFile(t *testing.T, v *webtest.Visitor, ref string, size int) *pieces {
	t.Helper()
	p := &pieces{v, v.Token(), ""}
	b64 := func(s string) string { return base64.StdEncoding.EncodeToString([]byte(s)) }
	p.at = p.asks("POST", "/applications/"+ref+"/arriving", nil, "Upload-Length", strconv.Itoa(size), "Upload-Metadata",
		"slot "+b64("site-plan")+",filename "+b64("plan.pdf")+",head "+b64("x")).Header.Get("Location")
	if p.at == "" {
		t.Fatal("no room was given")
	}
	return p
}

func (p *pieces) sends(offset int, body []byte) (status int) {
	return p.asks("PATCH", p.at, body, "Upload-Offset", strconv.Itoa(offset), "Content-Type",
		"application/offset+octet-stream").StatusCode
}

// has is how much is here; -1 when that is not said.
func (p *pieces) has() int {
	n, err := strconv.Atoi(p.asks("HEAD", p.at, nil).Header.Get("Upload-Offset"))
	if err != nil {
		return -1
	}
	return n
}
