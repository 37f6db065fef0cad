-- +goose Up
-- A second address that lasts: a way back in, and where mails go when they come back.
ALTER TABLE account
  ADD COLUMN lasting    text NOT NULL DEFAULT '', -- folded; '' for none
  ADD COLUMN lasting_at timestamptz;              -- when its link was pressed; NULL: not yet
CREATE INDEX account_lasting ON account (lasting) WHERE lasting <> '' AND lasting_at IS NOT NULL;
