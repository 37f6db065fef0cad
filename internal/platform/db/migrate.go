package db

import (
	"context"
	"fmt"
	"io/fs"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
)

// AppRole is the role that the application's address names, to be given its
// rights; "" where there is no such address, or it is the owner's own role.
func AppRole(appURL, ownerURL string) (string, error) {
	if appURL == "" {
		return "", nil
	}
	app, err := pgx.ParseConfig(appURL)
	if err != nil {
		return "", err
	}
	owner, err := pgx.ParseConfig(ownerURL)
	if err != nil || app.User == owner.User {
		return "", err
	}
	return app.User, nil
}

// Migrate brings the schema up to date as the owner of the database, and lets
// appRole (when not "") read and write its rows but not change the schema.
func Migrate(ctx context.Context, ownerURL, appRole string, files fs.FS) error {
	pool, err := pgxpool.New(ctx, ownerURL)
	if err != nil {
		return err
	}
	defer pool.Close()
	sqlDB := stdlib.OpenDBFromPool(pool)
	defer sqlDB.Close()
	provider, err := goose.NewProvider(goose.DialectPostgres, sqlDB, files, goose.WithVerbose(false))
	if err != nil {
		return err
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("migrating: %w", err)
	}
	queue, err := rivermigrate.New(riverpgxv5.New(pool), nil)
	if err != nil {
		return err
	}
	if _, err := queue.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("migrating the job tables: %w", err)
	}
	if appRole == "" {
		return nil
	}
	role := pgx.Identifier{appRole}.Sanitize()
	// What is only ever added to cannot be rewritten by the application, whatever
	// it is made to run; triggers hold for the owner too.
	_, err = pool.Exec(ctx, `GRANT USAGE ON SCHEMA public TO `+role+`;
		GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO `+role+`;
		REVOKE UPDATE, DELETE, TRUNCATE ON trail, seal, act, decision, act_letters, ledger FROM `+role+`;
		GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO `+role+`;
		GRANT EXECUTE ON FUNCTION erase_particulars(bigint) TO `+role)
	return err
}
