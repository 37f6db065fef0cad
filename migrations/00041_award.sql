-- +goose Up
-- Many awards, one form. Who stands how to which award is worked out of what was sent,
-- for everybody in the order of a round; placings are named and kept; what a person
-- said of a pair, and what is held by hand, holds for all of them.
CREATE TABLE candidacy (
  round_id  bigint PRIMARY KEY REFERENCES round ON DELETE CASCADE,
  design_id bigint NOT NULL REFERENCES design,
  at        timestamptz NOT NULL,
  people    int NOT NULL,
  version   int NOT NULL DEFAULT 1 -- grows with all that a placing hangs on
);
CREATE TABLE candidate (
  entry_id bigint PRIMARY KEY REFERENCES entry ON DELETE CASCADE,
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  seal_id  bigint NOT NULL REFERENCES seal,
  need     int NOT NULL, -- of 1,000, the greatest of all
  merit    int NOT NULL,
  cap      bigint NOT NULL -- on their money, minor units; 0: none
);
CREATE INDEX candidate_round ON candidate (round_id);
CREATE TABLE fit (
  entry_id bigint NOT NULL REFERENCES candidate ON DELETE CASCADE,
  round_id bigint NOT NULL,
  award    text NOT NULL,
  stand    text NOT NULL CHECK (stand IN ('fits', 'must say', 'nearly')),
  misses   int,          -- of nearly: which condition
  wish     int NOT NULL, -- 1: the first; 0: none was said
  first    boolean NOT NULL,
  need     int,              -- where the award has a measure of its own; else the candidate’s
  merit    int,
  said     jsonb NOT NULL, -- of each condition what was answered to it, the words found marked
  PRIMARY KEY (entry_id, award)
);
CREATE INDEX fit_award ON fit (round_id, award, stand);
CREATE INDEX fit_must_say ON fit (round_id, award) WHERE stand = 'must say';
-- How many stand how to an award: of nearly, by which condition they miss it.
CREATE TABLE award_count (
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  award    text NOT NULL,
  fits     int NOT NULL,
  must_say int NOT NULL,
  nearly   jsonb NOT NULL, -- a number for each condition
  asked    boolean NOT NULL, -- somebody was asked all that its criteria read
  PRIMARY KEY (round_id, award)
);
CREATE TABLE award_ruling (
  entry_id bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  award    text NOT NULL,
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  fits     boolean NOT NULL,
  why      text NOT NULL,
  by_id    bigint NOT NULL REFERENCES account,
  at       timestamptz NOT NULL,
  PRIMARY KEY (entry_id, award)
);
CREATE INDEX award_ruling_round ON award_ruling (round_id);
CREATE TABLE award_hand (
  entry_id bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  award    text NOT NULL,
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  give     boolean NOT NULL, -- else it is not given
  why      text NOT NULL,
  by_id    bigint NOT NULL REFERENCES account,
  at       timestamptz NOT NULL,
  PRIMARY KEY (entry_id, award)
);
CREATE INDEX award_hand_round ON award_hand (round_id);
CREATE TABLE award_placing (
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id bigint NOT NULL REFERENCES round ON DELETE CASCADE,
  name     text NOT NULL,
  rules    jsonb NOT NULL,
  at       timestamptz NOT NULL,
  by_id    bigint NOT NULL REFERENCES account,
  solved   int NOT NULL DEFAULT 0, -- the version of the candidacy it was worked out for; 0: not yet
  worth    bigint NOT NULL DEFAULT 0,
  bound    bigint NOT NULL DEFAULT 0,
  prices   float8[] NOT NULL DEFAULT '{}',
  UNIQUE (round_id, name)
);
CREATE TABLE placed (
  placing_id bigint NOT NULL REFERENCES award_placing ON DELETE CASCADE,
  entry_id   bigint NOT NULL REFERENCES candidate ON DELETE CASCADE,
  award      text NOT NULL,
  amount     bigint NOT NULL,
  PRIMARY KEY (placing_id, entry_id, award)
);
CREATE INDEX placed_award ON placed (placing_id, award);
CREATE INDEX placed_entry ON placed (entry_id);
-- What a decision gives, award by award.
CREATE TABLE awarded (
  act_id   bigint NOT NULL,
  entry_id bigint NOT NULL,
  award    text NOT NULL,
  amount   bigint NOT NULL,
  PRIMARY KEY (act_id, entry_id, award),
  FOREIGN KEY (act_id, entry_id) REFERENCES decision
);
CREATE INDEX awarded_entry ON awarded (entry_id);
CREATE TRIGGER awarded_only_added_to BEFORE UPDATE OR DELETE ON awarded FOR EACH ROW EXECUTE FUNCTION only_added_to();
