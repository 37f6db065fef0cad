package db

import (
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// Away reports an error that is PostgreSQL's not answering, and nobody's
// mistake: it is stopped, starting, out of room or out of connections. What was
// asked may be asked again, as it is, when it is back. Classes by PostgreSQL's
// manual, appendix A: 08 connections, 53 resources (53100 is a full disk), 57P
// shutting down or starting.
func Away(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		return strings.HasPrefix(pg.Code, "08") || strings.HasPrefix(pg.Code, "53") || strings.HasPrefix(pg.Code, "57P")
	}
	var connect *pgconn.ConnectError
	var network net.Error
	return errors.As(err, &connect) || errors.As(err, &network) || errors.Is(err, driver.ErrBadConn) ||
		errors.Is(err, io.ErrUnexpectedEOF) || pgconn.SafeToRetry(err)
}
