-- +goose Up
-- An application may have an entry in each of several stages. Lists show the
-- latest; the one before stays as it was decided.
ALTER TABLE standing ADD COLUMN stage text NOT NULL DEFAULT '';
ALTER TABLE standing ADD COLUMN latest boolean NOT NULL DEFAULT true;
UPDATE standing SET stage = e.stage FROM entry e WHERE e.id = standing.entry_id;
CREATE UNIQUE INDEX standing_latest ON standing (application_id) WHERE latest;
