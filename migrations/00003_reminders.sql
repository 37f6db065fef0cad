-- +goose Up
-- Which drafts were reminded at which moment of their round's calendar, so that
-- nobody is reminded twice.
CREATE TABLE reminded (
  entry_id bigint NOT NULL REFERENCES entry,
  moment   text NOT NULL,
  at       timestamptz NOT NULL,
  PRIMARY KEY (entry_id, moment)
);
