-- +goose Up
-- The public votes. Projects are read out of what was sent, looked through one by one,
-- and laid out on a ballot paper; whoever has a confirmed address or a code on paper has
-- one ballot. Who has voted stands in voter; what was chosen stands in ballot, under a
-- key that only the voter's own link gives. Nothing leads from one to the other.
ALTER TABLE post ADD COLUMN forget boolean NOT NULL DEFAULT false; -- its text is taken away once it has left, its address later
CREATE INDEX post_forget ON post (sent_at) WHERE forget AND to_address <> '';
CREATE TABLE vote (
  round_id     bigint PRIMARY KEY REFERENCES round ON DELETE CASCADE,
  seed         bytea NOT NULL,   -- drawn once; made-up voters and the marks of networks hang on it
  design_id    bigint REFERENCES design, -- by which the paper was laid out
  gathered_at  timestamptz,
  laid_at      timestamptz,      -- its ballot paper; NULL: nobody votes yet
  laid_by      bigint REFERENCES account,
  counted_at   timestamptz,
  document     bytea,            -- as it is published; whoever has it can count again
  summary      jsonb,            -- the same without the ballots, and with those left out counted in
  published_at timestamptz,
  published_by bigint REFERENCES account,
  note         text NOT NULL DEFAULT '', -- what stands beside the result: why it was counted anew
  forgotten_at timestamptz       -- addresses are erased
);
CREATE TABLE vote_project (
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  entry_id bigint NOT NULL UNIQUE REFERENCES entry ON DELETE CASCADE,
  seal_id  bigint NOT NULL REFERENCES seal,
  number   int,               -- on the ballot paper; NULL: not on it
  title    text NOT NULL,
  cost     bigint NOT NULL,   -- minor units; 0: not known, or nothing goes by it
  shown    jsonb NOT NULL,    -- what the public sees of it, label and text
  pictures jsonb NOT NULL,    -- files, by their numbers
  ruling   text NOT NULL DEFAULT '' CHECK (ruling IN ('', 'shown', 'held')),
  why      text NOT NULL DEFAULT '',
  by_id    bigint REFERENCES account,
  at       timestamptz,
  off      text NOT NULL DEFAULT '' -- why it was taken off the paper; '': it stands
);
CREATE INDEX vote_project_round ON vote_project (round_id, number);
CREATE TABLE vote_sheet (
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  label    text NOT NULL,     -- to whom it was given
  codes    int NOT NULL,
  by_id    bigint NOT NULL REFERENCES account,
  at       timestamptz NOT NULL,
  void_at  timestamptz,       -- codes that were not used by then work no more
  why      text NOT NULL DEFAULT ''
);
CREATE INDEX vote_sheet_round ON vote_sheet (round_id, id);
CREATE TABLE vote_pattern (
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  kind     text NOT NULL CHECK (kind IN ('domain', 'network')),
  what     text NOT NULL,     -- the domain; the mark of the network
  minute   timestamptz NOT NULL,
  came     int NOT NULL,      -- that asked for a ballot in it
  ruling   text NOT NULL DEFAULT '' CHECK (ruling IN ('', 'counts', 'left out')),
  why      text NOT NULL DEFAULT '',
  by_id    bigint REFERENCES account,
  at       timestamptz,
  UNIQUE (round_id, kind, what, minute)
);
CREATE TABLE voter (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id   bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  address    text,            -- as addresses are told apart; NULL: by a code, or forgotten
  sheet_id   bigint REFERENCES vote_sheet ON DELETE CASCADE, -- by a code on paper
  code       bytea,           -- SHA-256 of the code
  token      bytea,           -- SHA-256 of what opens the ballot; NULL: a code nobody has typed
  network    bytea NOT NULL DEFAULT '', -- mark of where it was asked from, no address
  asked_at   timestamptz NOT NULL,
  asked      int NOT NULL DEFAULT 0, -- how many mails went out to it
  mailed_at  timestamptz,
  voted_on   date,            -- NULL: not yet
  pattern_id bigint REFERENCES vote_pattern,
  UNIQUE (round_id, address),
  UNIQUE (round_id, code)
);
CREATE UNIQUE INDEX voter_token ON voter (token);
CREATE INDEX voter_asked ON voter (round_id, asked_at);
CREATE INDEX voter_sheet ON voter (sheet_id) WHERE sheet_id IS NOT NULL;
CREATE INDEX voter_pattern ON voter (pattern_id) WHERE pattern_id IS NOT NULL;
CREATE TABLE ballot (
  round_id   bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  key        bytea NOT NULL,  -- SHA-256 of what opens the ballot, by another word than voter.token
  receipt    text NOT NULL,
  choice     int[] NOT NULL,  -- places on the ballot paper from 0; points: a figure for each
  day        date NOT NULL,   -- on which it was first given
  pattern_id bigint REFERENCES vote_pattern,
  PRIMARY KEY (round_id, key),
  UNIQUE (round_id, receipt)
);
CREATE INDEX ballot_pattern ON ballot (pattern_id) WHERE pattern_id IS NOT NULL;
-- How many asked: of all (what = ''), of each domain, from each network.
CREATE TABLE vote_tally (
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  kind     text NOT NULL,
  what     text NOT NULL,
  minute   timestamptz NOT NULL,
  now      int NOT NULL,      -- in that minute
  before   int NOT NULL,      -- before it
  PRIMARY KEY (round_id, kind, what)
);
CREATE TABLE vote_pace (
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  network  bytea NOT NULL,
  due      timestamptz NOT NULL,
  PRIMARY KEY (round_id, network)
);
-- What did not become a ballot, counted by day.
CREATE TABLE vote_try (
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  kind     text NOT NULL,
  day      date NOT NULL,
  n        int NOT NULL,
  PRIMARY KEY (round_id, kind, day)
);
