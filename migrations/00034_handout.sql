-- +goose Up
-- Readers as the round knows them, the plan of who reads what before it is kept,
-- and what a reader writes beside marks.
ALTER TABLE reader
  ADD COLUMN fields       text[] NOT NULL DEFAULT '{}', -- option keys of the question that tells a case's field
  ADD COLUMN knows        text NOT NULL DEFAULT '',     -- in their own words
  ADD COLUMN organisation text NOT NULL DEFAULT '',
  ADD COLUMN jury         text NOT NULL DEFAULT '',     -- place whose cases they read alone; '' all
  ADD COLUMN own_most     int,                          -- cases they take at most; NULL: as all
  ADD COLUMN away_from    date,
  ADD COLUMN away_to      date,                         -- the last day
  ADD COLUMN declined_at  timestamptz,
  ADD COLUMN why          text NOT NULL DEFAULT '',     -- of declining, or of being taken off
  ADD COLUMN ended_at     timestamptz,                  -- taken off by the office; NULL: reads
  ADD COLUMN told_at      timestamptz,                  -- of cases that wait
  ADD COLUMN reminded_at  timestamptz;
ALTER TABLE assignment
  ADD COLUMN held         boolean NOT NULL DEFAULT false,
  ADD COLUMN overall      int,                          -- the overall judgement, a step; NULL: none
  ADD COLUMN to_applicant text NOT NULL DEFAULT '',
  ADD COLUMN to_office    text NOT NULL DEFAULT '',
  ADD COLUMN reopened_at  timestamptz,
  ADD COLUMN reopened_why text NOT NULL DEFAULT '';
CREATE TABLE point (                    -- a pass point as a reader finds it
  entry_id   bigint NOT NULL,
  account_id bigint NOT NULL,
  point      text NOT NULL,              -- criterion.point
  met        boolean NOT NULL,
  PRIMARY KEY (entry_id, account_id, point),
  FOREIGN KEY (entry_id, account_id) REFERENCES assignment ON DELETE CASCADE
);
CREATE TABLE mark_before (              -- marks as they were when they were reopened
  entry_id   bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  account_id bigint NOT NULL,
  at         timestamptz NOT NULL,
  by_id      bigint NOT NULL,
  why        text NOT NULL,
  marks      jsonb NOT NULL,
  PRIMARY KEY (entry_id, account_id, at)
);
CREATE TABLE plan (                     -- who is to read what; nobody is told
  round_id bigint PRIMARY KEY REFERENCES round,
  at       timestamptz NOT NULL,
  by_id    bigint NOT NULL,
  version  int NOT NULL DEFAULT 1,
  asks     jsonb NOT NULL,               -- what was asked of it
  total    bigint NOT NULL,              -- what it costs, and no plan costs less than:
  bound    bigint NOT NULL,
  short    jsonb NOT NULL,               -- cases that lack readers, with why
  entries  bigint[] NOT NULL,            -- rows of the fits
  readers  bigint[] NOT NULL,            -- their columns
  fits     bytea NOT NULL                -- row by row, in hundredths; 255: must not read it
);
CREATE TABLE planned (
  round_id   bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
  entry_id   bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  account_id bigint NOT NULL,
  held       boolean NOT NULL DEFAULT false,  -- by hand, or given already
  PRIMARY KEY (entry_id, account_id)
);
CREATE INDEX planned_round ON planned (round_id);
