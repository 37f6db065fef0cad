-- +goose Up
-- A second factor, a change of address, and leaving.
ALTER TABLE account
  ADD COLUMN second_secret bytea,               -- sealed with the server's key; NULL: never begun
  ADD COLUMN second_at     timestamptz,         -- when it was switched on; NULL: off
  ADD COLUMN second_step   bigint NOT NULL DEFAULT 0, -- the time step of the last code that was used
  ADD COLUMN new_email     text NOT NULL DEFAULT '',  -- waits to be confirmed
  ADD COLUMN left_at       timestamptz;

CREATE TABLE recovery_code (              -- each stands in once for the second factor
  account_id bigint NOT NULL REFERENCES account ON DELETE CASCADE,
  hash       bytea NOT NULL,
  used_at    timestamptz,
  PRIMARY KEY (account_id, hash)
);
CREATE INDEX material_sha ON material (sha256);
