-- +goose Up
-- The funder’s terms, each version of them, and which an organisation agreed to.
CREATE TABLE terms (
  version int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  text    text NOT NULL,
  by_id   bigint NOT NULL,
  at      timestamptz NOT NULL
);
ALTER TABLE profile
  ADD COLUMN terms      int NOT NULL DEFAULT 0,   -- the version agreed to; 0 for none
  ADD COLUMN agreed_at  timestamptz,
  ADD COLUMN agreed_by  bigint REFERENCES account,
  ADD COLUMN renew_told timestamptz;              -- when its people were told that it is to be renewed
UPDATE profile SET agreed_at = sent_at WHERE kind = 'organisation' AND sent_at IS NOT NULL;
