package mail

import (
	"bytes"
	"errors"
	"io"
	"strings"

	"github.com/emersion/go-message"
)

// ErrNoCalendar: a mail that carries no iCalendar object.
var ErrNoCalendar = errors.New("this mail carries no calendar object")

// deepest is how many parts within parts a mail is looked through.
const deepest = 6

// CalendarIn is the first iCalendar object that a mail carries, by itself or in a part
// (RFC 6047, 2.4).
func CalendarIn(raw []byte) (string, error) {
	m, err := message.Read(bytes.NewReader(raw))
	if err != nil && !message.IsUnknownCharset(err) {
		return "", errors.Join(ErrNoCalendar, err)
	}
	return calendarIn(m, deepest)
}

func calendarIn(m *message.Entity, deep int) (string, error) {
	kind, _, _ := m.Header.ContentType()
	if strings.EqualFold(kind, "text/calendar") {
		text, err := io.ReadAll(io.LimitReader(m.Body, mostReport))
		if err != nil {
			return "", errors.Join(ErrNoCalendar, err)
		}
		return string(text), nil
	}
	parts := m.MultipartReader()
	for parts != nil && deep > 0 {
		p, err := parts.NextPart()
		if err != nil && !message.IsUnknownCharset(err) {
			break
		}
		if text, err := calendarIn(p, deep-1); err == nil {
			return text, nil
		}
	}
	return "", ErrNoCalendar
}
