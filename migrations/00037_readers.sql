-- +goose Up
-- What readers say of themselves beforehand, and what they note for themselves.
ALTER TABLE reader
  ADD COLUMN interests text NOT NULL DEFAULT '',      -- persons, bodies, places, a line each
  ADD COLUMN languages text[] NOT NULL DEFAULT '{}';  -- option keys of the question that tells a case's language; none: all
CREATE TABLE margin (                    -- a reader's own note on a text they read
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id   bigint NOT NULL,
  account_id bigint NOT NULL,
  question   text NOT NULL,
  quote      text NOT NULL,              -- the words that are marked
  nth        int NOT NULL DEFAULT 0,     -- which of the places where these words stand, from 0
  note       text NOT NULL DEFAULT '',
  at         timestamptz NOT NULL,
  FOREIGN KEY (entry_id, account_id) REFERENCES assignment ON DELETE CASCADE
);
CREATE INDEX margin_of ON margin (entry_id, account_id);
