-- +goose Up
-- A sponsoring body that holds the money for somebody: asked by its registered
-- number, confirmed by a link that goes to its address on file.
CREATE TABLE sponsor (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  profile_id bigint NOT NULL REFERENCES profile, -- for whom the money is held
  scheme     text NOT NULL,                      -- the number that was given
  value      text NOT NULL,
  sponsor_id bigint REFERENCES profile,          -- NULL: no known body has the number, which whoever asks is not told
  state      text NOT NULL,                      -- asked | taken back | confirmed | refused | ended
  asked_at   timestamptz NOT NULL,
  at         timestamptz NOT NULL
);
CREATE UNIQUE INDEX sponsor_one ON sponsor (profile_id) WHERE state IN ('asked', 'confirmed');
CREATE INDEX sponsor_of ON sponsor (sponsor_id) WHERE state = 'confirmed';
