-- +goose Up
-- What one person at the office proposed about a fee, for a second to agree to.
CREATE TABLE fee_wish (
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id bigint NOT NULL REFERENCES entry,
  round_id bigint NOT NULL REFERENCES round,
  act      text NOT NULL CHECK (act IN ('let off', 'paid in')),
  args     jsonb NOT NULL,
  by_id    bigint NOT NULL,
  at       timestamptz NOT NULL,
  ended_by bigint,
  ended_at timestamptz,                  -- agreed to, not agreed to, or taken back
  agreed   boolean NOT NULL DEFAULT false
);
CREATE UNIQUE INDEX fee_wish_open ON fee_wish (entry_id, act) WHERE ended_at IS NULL;
CREATE INDEX fee_wish_round ON fee_wish (round_id) WHERE ended_at IS NULL;
