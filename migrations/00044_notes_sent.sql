-- +goose Up
-- Readers' notes that went out by themselves, on the day the round promises them on.
CREATE TABLE notes_sent (
  entry_id bigint PRIMARY KEY REFERENCES entry ON DELETE CASCADE,
  post_id  bigint, -- NULL: there was nothing to say
  at       timestamptz NOT NULL
);
