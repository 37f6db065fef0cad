-- +goose Up
-- Interviews: the days of panels, their times, who is met when, and what those who
-- were there say.
CREATE TABLE interview_day (
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id bigint NOT NULL REFERENCES round,
  stage    text NOT NULL,               -- stage of interviews
  panel    text NOT NULL,
  place    text NOT NULL DEFAULT '',    -- where it is, or
  link     text NOT NULL DEFAULT '',    -- where it is joined
  note     text NOT NULL DEFAULT ''     -- to whoever comes
);
CREATE INDEX interview_day_round ON interview_day (round_id);
CREATE TABLE interview_member (
  day_id     bigint NOT NULL REFERENCES interview_day ON DELETE CASCADE,
  account_id bigint NOT NULL REFERENCES account,
  PRIMARY KEY (day_id, account_id)
);
CREATE INDEX interview_member_account ON interview_member (account_id);
CREATE TABLE interview_slot (
  id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  day_id    bigint NOT NULL REFERENCES interview_day ON DELETE CASCADE,
  starts_at timestamptz NOT NULL,
  minutes   int NOT NULL,
  UNIQUE (day_id, starts_at)
);
CREATE TABLE interview (                  -- one entry that is invited
  entry_id    bigint PRIMARY KEY REFERENCES entry ON DELETE CASCADE,
  slot_id     bigint UNIQUE REFERENCES interview_slot,  -- NULL: none is chosen or given yet
  day_id      bigint REFERENCES interview_day,          -- that of the slot
  zone        text NOT NULL DEFAULT '', -- IANA name of where they are; '': as the funder
  choose_by   timestamptz,              -- they choose a time until then; NULL: they are given one
  invited_at  timestamptz NOT NULL,
  sequence    int NOT NULL DEFAULT 0,   -- of the invitation (RFC 5545, 3.8.7.4)
  reply       text NOT NULL DEFAULT '' CHECK (reply IN ('', 'comes', 'cannot')),
  replied_at  timestamptz,
  why         text NOT NULL DEFAULT '', -- of the reply
  outcome     text NOT NULL DEFAULT '' CHECK (outcome IN ('', 'held', 'absent')),
  outcome_at  timestamptz,
  outcome_why text NOT NULL DEFAULT '',
  reminded_at timestamptz,
  version     int NOT NULL DEFAULT 1
);
CREATE INDEX interview_of_day ON interview (day_id);
CREATE TABLE interview_said (             -- what one member says of somebody they met
  entry_id   bigint NOT NULL REFERENCES interview ON DELETE CASCADE,
  account_id bigint NOT NULL REFERENCES account,
  note       text NOT NULL DEFAULT '',
  out        boolean NOT NULL DEFAULT false, -- stepped out of the room
  sent_at    timestamptz,
  version    int NOT NULL DEFAULT 1,
  PRIMARY KEY (entry_id, account_id)
);
CREATE TABLE interview_mark (
  entry_id   bigint NOT NULL,
  account_id bigint NOT NULL,
  criterion  text NOT NULL,
  value      int NOT NULL,
  at         timestamptz NOT NULL,
  PRIMARY KEY (entry_id, account_id, criterion),
  FOREIGN KEY (entry_id, account_id) REFERENCES interview_said ON DELETE CASCADE
);
ALTER TABLE post ADD COLUMN calendar text NOT NULL DEFAULT ''; -- an iCalendar object that goes with it
ALTER TABLE entry DROP CONSTRAINT entry_state, DROP CONSTRAINT entry_told,
  ADD CONSTRAINT entry_state CHECK (state IN ('invited', 'draft', 'waiting for payment', 'not paid', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'interview', 'invited on', 'awarded', 'reserve', 'not awarded', 'withdrawn')),
  ADD CONSTRAINT entry_told CHECK (told IN ('', 'invited', 'draft', 'waiting for payment', 'not paid', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'interview', 'invited on', 'awarded', 'reserve', 'not awarded', 'withdrawn'));
ALTER TABLE standing DROP CONSTRAINT standing_state,
  ADD CONSTRAINT standing_state CHECK (state IN ('invited', 'draft', 'waiting for payment', 'not paid', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'interview', 'invited on', 'awarded', 'reserve', 'not awarded', 'withdrawn', 'lapsed'));
DROP INDEX standing_work;
CREATE INDEX standing_work ON standing (state, round_id) WHERE state IN ('eligible', 'reading', 'read', 'interview');
