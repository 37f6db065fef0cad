// Package tus answers requests of the resumable upload protocol tus 1.0.0
// (tus.io/protocols/resumable-upload, extensions creation and termination) for
// whoever keeps the bytes. The protocol itself is github.com/tus/tusd; here each
// request is answered by itself, with its body read already, inside whatever
// transaction its keeper holds, so that what is acknowledged has been kept.
package tus

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net/http"
	"net/url"
	"strings"

	"github.com/tus/tusd/v2/pkg/handler"
	"golang.org/x/exp/slog"
)

// Upload is one that is on its way.
type Upload struct {
	Length, Offset int64 // bytes
}

// Keeper keeps uploads. An error of its own ends the request and is given back.
type Keeper interface {
	// Begin reserves room for a file and names the upload; meta is what its sender says.
	Begin(ctx context.Context, length int64, meta map[string]string) (id string, err error)
	// Find an upload; ErrNotFound when there is none, or not for whoever asks.
	Find(ctx context.Context, id string) (Upload, error)
	// Write puts bytes behind the offset that Find gave, and flushes them.
	Write(ctx context.Context, id string, offset int64, r io.Reader) (n int64, err error)
	// Finish is called once, in the request that brings the last byte.
	Finish(ctx context.Context, id string) error
	// Drop gives an upload up.
	Drop(ctx context.Context, id string) error
}

// ErrNotFound: no such upload, or not of whoever asks.
var ErrNotFound = errors.New("there is no such upload")

// Request is what a client sent.
type Request struct {
	Method, Path string
	Header       http.Header
	Body         []byte
}

// Response is what it is answered.
type Response struct {
	Status int
	Header http.Header
	Body   []byte
}

// Write makes a Response an http.ResponseWriter.
func (r *Response) Write(b []byte) (int, error) {
	if r.Status == 0 {
		r.Status = http.StatusOK
	}
	r.Body = append(r.Body, b...)
	return len(b), nil
}

// WriteHeader keeps the first status; one below 200 is no answer yet.
func (r *Response) WriteHeader(status int) {
	if r.Status == 0 && status >= http.StatusOK {
		r.Status = status
	}
}

// header is the response as net/http sees it, whose Header is a method.
type header struct{ *Response }

func (h header) Header() http.Header { return h.Response.Header }

// Serve answers one request; uploads lie below base, which ends in a slash. The
// error is the keeper's own: what it kept must then be rolled back.
func Serve(ctx context.Context, k Keeper, base string, q Request) (*Response, error) {
	ctx, cancel := context.WithCancel(ctx) // what the protocol begins ends with the request
	defer cancel()
	s := &store{k: k}
	composer := handler.NewStoreComposer()
	composer.UseCore(s)
	composer.UseTerminater(s)
	h, err := handler.NewUnroutedHandler(handler.Config{StoreComposer: composer, BasePath: base,
		Cors: &handler.CorsConfig{Disable: true}, DisableDownload: true, DisableConcatenation: true,
		Logger: slog.New(slog.NewTextHandler(io.Discard, nil))})
	if err != nil {
		return nil, err
	}
	r := (&http.Request{Method: q.Method, URL: &url.URL{Path: strings.TrimPrefix(q.Path, base)}, Header: q.Header,
		Proto:      "HTTP/1.1",
		ProtoMajor: 1, ProtoMinor: 1, Body: io.NopCloser(bytes.NewReader(q.Body)),
		ContentLength: int64(len(q.Body))}).WithContext(ctx)
	out := &Response{Header: http.Header{}}
	by := map[string]http.HandlerFunc{http.MethodPost: h.PostFile, http.MethodHead: h.HeadFile,
		http.MethodPatch: h.PatchFile, http.MethodDelete: h.DelFile,
		http.MethodOptions: func(http.ResponseWriter, *http.Request) {}}[q.Method]
	if by == nil {
		by = func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusMethodNotAllowed) }
	}
	h.Middleware(by).ServeHTTP(header{out}, r)
	if at, err := url.Parse(out.Header.Get("Location")); err == nil && at.Path != "" {
		out.Header.Set("Location", at.Path) // whatever a proxy calls this server
	}
	return out, s.err
}

// store is a keeper as tusd sees it.
type store struct {
	k   Keeper
	err error // the keeper's first
}

func (s *store) keep(err error) error {
	if errors.Is(err, ErrNotFound) {
		return handler.ErrNotFound
	}
	if err != nil && s.err == nil {
		s.err = err
	}
	return err
}

// NewUpload is tusd's word for Begin.
func (s *store) NewUpload(ctx context.Context, info handler.FileInfo) (handler.Upload, error) {
	id, err := s.k.Begin(ctx, info.Size, info.MetaData)
	return &upload{s, id}, s.keep(err)
}

// GetUpload is looked up when it is first asked about.
func (s *store) GetUpload(_ context.Context, id string) (handler.Upload, error) {
	return &upload{s, id}, nil
}

// AsTerminatableUpload gives up an upload.
func (s *store) AsTerminatableUpload(u handler.Upload) handler.TerminatableUpload { return u.(*upload) }

type upload struct {
	*store
	id string
}

func (u *upload) GetInfo(ctx context.Context) (handler.FileInfo, error) {
	f, err := u.k.Find(ctx, u.id)
	return handler.FileInfo{ID: u.id, Size: f.Length, Offset: f.Offset, MetaData: handler.MetaData{}}, u.keep(err)
}

func (u *upload) WriteChunk(ctx context.Context, offset int64, src io.Reader) (int64, error) {
	n, err := u.k.Write(ctx, u.id, offset, src)
	return n, u.keep(err)
}

func (u *upload) FinishUpload(ctx context.Context) error { return u.keep(u.k.Finish(ctx, u.id)) }
func (u *upload) Terminate(ctx context.Context) error    { return u.keep(u.k.Drop(ctx, u.id)) }

// GetReader is not offered: what has arrived is read elsewhere.
func (u *upload) GetReader(context.Context) (io.ReadCloser, error) {
	return nil, handler.ErrNotImplemented
}
