-- +goose Up
-- The panel: who sits when over which cases, who steps out for which, what is said and
-- voted, and moves of the order with their reasons.
CREATE TABLE panel_sitting (
  id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id     bigint NOT NULL REFERENCES round,
  stage        text NOT NULL,
  name         text NOT NULL,
  at           timestamptz NOT NULL,
  place        text NOT NULL DEFAULT '',
  minutes      int NOT NULL,             -- it has
  votes        boolean NOT NULL DEFAULT false,
  begun_at     timestamptz,
  ended_at     timestamptz,
  entry_id     bigint REFERENCES entry,  -- talked about now; NULL: nothing
  since        timestamptz,              -- it is
  notes        text NOT NULL DEFAULT '', -- of the meeting as a whole
  said         text NOT NULL DEFAULT '' CHECK (said IN ('', 'confirmed', 'sent back')),
  said_at      timestamptz,
  said_by      bigint REFERENCES account, -- of the second body
  said_why     text NOT NULL DEFAULT '',
  version      int NOT NULL DEFAULT 1
);
CREATE INDEX panel_sitting_round ON panel_sitting (round_id);
CREATE TABLE panel_member (
  sitting_id bigint NOT NULL REFERENCES panel_sitting ON DELETE CASCADE,
  account_id bigint NOT NULL REFERENCES account,
  here       boolean NOT NULL DEFAULT true,
  PRIMARY KEY (sitting_id, account_id)
);
CREATE TABLE panel_item (
  sitting_id bigint NOT NULL REFERENCES panel_sitting ON DELETE CASCADE,
  entry_id   bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  position   int NOT NULL,
  minutes    int NOT NULL,
  why        int NOT NULL,               -- core/agenda.Why
  notes      text NOT NULL DEFAULT '',
  talked_at  timestamptz,
  PRIMARY KEY (sitting_id, entry_id)
);
CREATE TABLE panel_out (                 -- a member leaves the room for a case
  sitting_id bigint NOT NULL REFERENCES panel_sitting ON DELETE CASCADE,
  entry_id   bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  account_id bigint NOT NULL REFERENCES account,
  why        text NOT NULL,
  at         timestamptz NOT NULL,
  PRIMARY KEY (sitting_id, entry_id, account_id)
);
CREATE INDEX panel_out_of ON panel_out (account_id, entry_id);
CREATE TABLE panel_vote (
  sitting_id bigint NOT NULL REFERENCES panel_sitting ON DELETE CASCADE,
  entry_id   bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  account_id bigint NOT NULL REFERENCES account,
  vote       text NOT NULL CHECK (vote IN ('for', 'against', 'neither')),
  at         timestamptz NOT NULL,
  PRIMARY KEY (sitting_id, entry_id, account_id)
);
CREATE TABLE panel_move (                -- of the order, in their sequence
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id   bigint NOT NULL REFERENCES round,
  stage      text NOT NULL,
  sitting_id bigint REFERENCES panel_sitting,
  entry_id   bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  places     int NOT NULL,               -- up where above 0
  why        text NOT NULL,
  by_id      bigint NOT NULL REFERENCES account,
  at         timestamptz NOT NULL,
  undone_at  timestamptz
);
CREATE INDEX panel_move_round ON panel_move (round_id, stage);
