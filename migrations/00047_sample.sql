-- +goose Up
-- A case of an earlier round on which readers learn how a round marks.
CREATE TABLE sample (
  round_id bigint PRIMARY KEY REFERENCES round,
  entry_id bigint NOT NULL REFERENCES entry,
  note     text NOT NULL DEFAULT '', -- what readers are told before
  marks    jsonb NOT NULL,           -- by criterion: the office's mark, and why
  by_id    bigint NOT NULL REFERENCES account,
  at       timestamptz NOT NULL
);
CREATE TABLE trained (
  round_id   bigint NOT NULL REFERENCES round,
  account_id bigint NOT NULL REFERENCES account,
  entry_id   bigint NOT NULL, -- the case that was the sample then
  marks      jsonb NOT NULL,  -- by criterion, before they saw the office's
  at         timestamptz NOT NULL,
  PRIMARY KEY (round_id, account_id)
);
