package site

import (
	"bufio"
	"context"
	"errors"
	"io"
	"mime/multipart"
	"net/url"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/export"
	"ulvant/core/slot"
	"ulvant/internal/guidance"
	"ulvant/internal/material"
	"ulvant/internal/platform/inspect"
)

// Download sends bytes as a download that no browser runs.
func (r *Request) Download(name, mime string, b []byte) error {
	r.safe(name, mime)
	return r.Send(b)
}

// Stream sends a download that is written while it goes; write must not use the
// request, which has been answered by then.
func (r *Request) Stream(name, mime string, write func(to *bufio.Writer)) error {
	r.safe(name, mime)
	return r.SendStreamWriter(write)
}

// Give gives rows out as a file: JSON where the address ends in it, else CSV.
func (r *Request) Give(name string, rows *export.Sheet) error {
	if strings.HasSuffix(r.Path(), ".json") {
		return r.Download(name+".json", "application/json", rows.JSON())
	}
	return r.Download(name+".csv", "text/csv; charset=utf-8", []byte(rows.CSV()))
}

func (r *Request) safe(name, mime string) {
	r.Set(fiber.HeaderContentDisposition, "attachment; filename*=UTF-8''"+url.PathEscape(name))
	r.Set(fiber.HeaderContentType, mime)
	r.Set(fiber.HeaderContentSecurityPolicy, "sandbox; default-src 'none'")
	r.Set(fiber.HeaderXContentTypeOptions, "nosniff")
	r.Set(fiber.HeaderCacheControl, "private, no-store")
}

// seenPolicy lets a browser show a picture, a film or a sound that is opened by
// itself, and nothing else of it.
const seenPolicy = "sandbox; default-src 'none'; img-src 'self'; media-src 'self'; style-src 'unsafe-inline'"

// seenFor is how long a browser keeps a picture that was made for looking at it.
const seenFor = "private, max-age=604800, immutable"

// SendMaterial sends a stored file of the request's case: as a download, or, when
// the address asks for it to be seen and a browser can show it, in the page. A
// picture is also had small and large, without its properties.
func (r *Request) SendMaterial(f material.File) error {
	if f.Finding == slot.Virus {
		return fiber.NewError(fiber.StatusConflict, "A virus was found in this file. It is sent to nobody.")
	}
	if f.Scan == slot.ToScan && (r.Account == nil || f.ByKind != "account" || f.ByID != r.Account.ID) {
		return fiber.NewError(fiber.StatusConflict,
			"This file still waits to be looked through for viruses. Try again in some minutes.")
	}
	if made := material.Made(r.Query("seen")); f.State == slot.Ready && f.Facts.Kind == slot.Picture &&
		(made == material.Small || made == material.Large) {
		sum, err := r.Materials.Rendition(r.Context, r.At, f, made)
		if errors.Is(err, inspect.ErrKept) {
			return fiber.ErrNotFound
		}
		if err != nil {
			return err
		}
		if err := r.SendFile(r.Files.Path(sum), fiber.SendFile{ByteRange: true}); err != nil {
			return err
		}
		r.safe("picture.jpg", "image/jpeg")
		r.Set(fiber.HeaderContentDisposition, "inline")
		r.Set(fiber.HeaderContentSecurityPolicy, seenPolicy)
		r.Set(fiber.HeaderCacheControl, seenFor)
		return nil
	}
	if f.State == slot.Ready && f.Facts.Kind == slot.Sheet && r.Query("seen") == "table" {
		ctx, cancel := r.UploadContext()
		defer cancel()
		t, err := r.Materials.Bench.Sheet(ctx, r.Files.Path(f.SHA256))
		if errors.Is(err, inspect.ErrKept) {
			return fiber.NewError(fiber.StatusUnprocessableEntity, "This sheet cannot be shown here. Fetch it instead.")
		}
		if err != nil {
			return err
		}
		return r.JSON(t)
	}
	if err := r.SendFile(r.Files.Path(f.SHA256), fiber.SendFile{ByteRange: true}); err != nil {
		return err
	}
	mime := "application/octet-stream"
	if f.State == slot.Ready && f.MIME != "" {
		mime = f.MIME // as found by opening it, never as the sender named it
	}
	r.safe(f.Name, mime)
	if r.Query("seen") == "yes" && slot.Shows(mime) != "" {
		r.Set(fiber.HeaderContentDisposition, "inline; filename*=UTF-8''"+url.PathEscape(f.Name))
		r.Set(fiber.HeaderContentSecurityPolicy, seenPolicy)
	}
	return nil
}

// SendGuidance sends a file beside the request's round, by its number and that of the
// version; "" for the last.
func (r *Request) SendGuidance(version string) error {
	id, err := strconv.ParseInt(r.Params("id"), 10, 64)
	if err != nil {
		return fiber.ErrNotFound
	}
	p, err := r.Program.Guidance.Find(r.Context, r.DB, r.Round.ID, id)
	if errors.Is(err, guidance.ErrNotFound) {
		return fiber.ErrNotFound
	}
	if err != nil {
		return err
	}
	v := p.Last()
	if version != "" {
		n, err := strconv.Atoi(version)
		if err != nil || n < 1 || n > len(p.Versions) {
			return fiber.ErrNotFound
		}
		v = p.Versions[n-1]
	}
	b, err := r.Program.Guidance.Bytes(v)
	if err != nil {
		return err
	}
	return r.Download(v.Name, v.MIME, b)
}

// Upload opens the file of a posted form.
func (r *Request) Upload(name string) (*multipart.FileHeader, io.ReadCloser, error) {
	h, err := r.FormFile(name)
	if err != nil || h.Size == 0 && h.Filename == "" {
		return nil, nil, errors.New("choose a file first")
	}
	f, err := h.Open()
	return h, f, err
}

// UploadContext is the deadline for storing and opening a file.
func (r *Request) UploadContext() (context.Context, context.CancelFunc) {
	return context.WithTimeout(context.Background(), 2*databaseTime)
}
