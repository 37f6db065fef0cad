// Package scan has files looked through for viruses by a daemon that speaks clamd's
// protocol: the command INSTREAM of clamd(8), each piece of a file behind its
// length in four bytes, a length of nothing at the end.
package scan

import (
	"bufio"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"strings"
	"time"
)

// Scanner is a daemon at an address; "" for none, which finds nothing.
type Scanner struct {
	Addr string // host:port, or the path of a socket
}

// On reports that there is one.
func (s Scanner) On() bool { return s.Addr != "" }

// piece is how much is sent behind one length; patience how long a daemon may take.
const (
	piece    = 64 << 10
	patience = 2 * time.Minute
)

// ErrTooLarge: the daemon takes no file of this size.
var ErrTooLarge = errors.New("the file is larger than the scanner takes")

// File has a file looked through. found names what was found, "" for nothing; an
// error means that nobody looked: the daemon does not answer, or not to the point.
func (s Scanner) File(ctx context.Context, path string) (found string, err error) {
	f, err := os.Open(path)
	if err != nil {
		return "", err
	}
	defer f.Close()
	return s.Read(ctx, f)
}

// Read is File for what r gives.
func (s Scanner) Read(ctx context.Context, r io.Reader) (found string, err error) {
	network := "tcp"
	if strings.HasPrefix(s.Addr, "/") {
		network = "unix"
	}
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var d net.Dialer
	c, err := d.DialContext(ctx, network, s.Addr)
	if err != nil {
		return "", err
	}
	defer c.Close()
	defer context.AfterFunc(ctx, func() { c.SetDeadline(time.Unix(1, 0)) })()
	sent := send(c, r) // a daemon that has seen enough answers and closes: its answer tells more than our error
	line, err := bufio.NewReader(io.LimitReader(c, 4096)).ReadString(0)
	if err != nil {
		return "", errors.Join(sent, fmt.Errorf("the scanner did not answer: %w", err))
	}
	return answer(strings.TrimRight(line, "\x00"))
}

func send(w io.Writer, r io.Reader) error {
	if _, err := io.WriteString(w, "zINSTREAM\x00"); err != nil {
		return err
	}
	b := make([]byte, 4+piece)
	for {
		n, err := io.ReadFull(r, b[4:])
		if n > 0 {
			binary.BigEndian.PutUint32(b, uint32(n))
			if _, werr := w.Write(b[:4+n]); werr != nil {
				return werr
			}
		}
		if err == io.EOF || err == io.ErrUnexpectedEOF {
			break
		}
		if err != nil {
			return err
		}
	}
	_, err := w.Write(make([]byte, 4))
	return err
}

// answer reads “stream: OK”, “stream: NAME FOUND”, or an error.
func answer(line string) (found string, err error) {
	says, ok := strings.CutPrefix(line, "stream: ")
	switch {
	case ok && says == "OK":
		return "", nil
	case ok && strings.HasSuffix(says, " FOUND") && len(says) > len(" FOUND"):
		return strings.TrimSuffix(says, " FOUND"), nil
	case strings.Contains(line, "size limit exceeded"):
		return "", ErrTooLarge
	}
	return "", fmt.Errorf("the scanner answered %q", line)
}
