-- +goose Up
-- The papers that an organisation shows by its legal form stand on its shelf, each
-- under its key.
ALTER TABLE shelved ADD COLUMN paper text NOT NULL DEFAULT ''; -- '' for a file that is none of them
CREATE UNIQUE INDEX shelved_paper ON shelved (profile_id, paper) WHERE paper <> '' AND removed_at IS NULL;
