// Package migrations holds the schema as forward-only SQL files for goose.
package migrations

import "embed"

// FS holds the files, named NNNNN_what.sql.
//
//go:embed *.sql
var FS embed.FS
