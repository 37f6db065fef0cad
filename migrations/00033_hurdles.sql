-- +goose Up
-- What stood in the way of drafts that had come to a halt, and what came before it
-- was mended: so that the office learns what helps.
CREATE TABLE hurdle (
  entry_id bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  round_id bigint NOT NULL REFERENCES round,
  code     text NOT NULL,                -- of the obstacle
  since    timestamptz NOT NULL,         -- when the draft had come to a halt
  over_at  timestamptz,                  -- when it stood in the way no more; NULL: it does
  helped   text NOT NULL DEFAULT '',     -- what was done for them shortly before; '' nothing that is known
  PRIMARY KEY (entry_id, code, since)
);
CREATE UNIQUE INDEX hurdle_open ON hurdle (entry_id, code) WHERE over_at IS NULL;
CREATE INDEX hurdle_round ON hurdle (round_id, code) WHERE over_at IS NOT NULL;
