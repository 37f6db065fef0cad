-- +goose Up
-- What the register knows of an entry besides its standing: written with it, read
-- by no one who writes. Facts are kept from sending on; see core/register.
CREATE TABLE known (
  entry_id bigint PRIMARY KEY REFERENCES entry ON DELETE CASCADE,
  round_id bigint NOT NULL,
  facts    jsonb NOT NULL,
  bodies   text[] NOT NULL DEFAULT '{}'  -- reviewing bodies that it is for
);
CREATE INDEX known_round ON known (round_id);
-- Standings of before have none: they are worked out anew by a sweep.
ALTER TABLE standing ADD COLUMN known boolean NOT NULL DEFAULT false;
CREATE INDEX standing_unknown ON standing (entry_id) WHERE NOT known;

-- register ---------------------------------------------------------------
CREATE TABLE kept_view (                 -- a shape of a register that was kept
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id bigint REFERENCES round,      -- NULL: of all rounds
  by_id    bigint NOT NULL REFERENCES account,
  name     text NOT NULL,
  shared   boolean NOT NULL DEFAULT false, -- with all who see the register
  address  text NOT NULL,                -- core/register.Shape as it stands in an address
  kept_at  timestamptz NOT NULL,
  ended_at timestamptz
);
CREATE UNIQUE INDEX kept_view_name ON kept_view (COALESCE(round_id, 0), by_id, name) WHERE ended_at IS NULL;
CREATE TABLE label (
  application_id bigint NOT NULL REFERENCES application ON DELETE CASCADE,
  name           text NOT NULL,
  by_id          bigint NOT NULL,
  at             timestamptz NOT NULL,
  PRIMARY KEY (application_id, name)
);
CREATE INDEX label_name ON label (name);
CREATE TABLE note (                      -- to colleagues, about a case
  id             bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  application_id bigint NOT NULL REFERENCES application ON DELETE CASCADE,
  by_id          bigint NOT NULL REFERENCES account,
  at             timestamptz NOT NULL,
  text           text NOT NULL,
  ended_at       timestamptz             -- taken back
);
CREATE INDEX note_application ON note (application_id);
CREATE TABLE mention (                   -- a colleague named in a note
  note_id    bigint NOT NULL REFERENCES note ON DELETE CASCADE,
  account_id bigint NOT NULL REFERENCES account,
  seen_at    timestamptz,
  PRIMARY KEY (note_id, account_id)
);
CREATE INDEX mention_open ON mention (account_id) WHERE seen_at IS NULL;
CREATE TABLE hand (                      -- who looks after a case, by hand: before its place or field
  application_id bigint PRIMARY KEY REFERENCES application ON DELETE CASCADE,
  account_id     bigint NOT NULL REFERENCES account,
  by_id          bigint NOT NULL,
  at             timestamptz NOT NULL
);
CREATE INDEX hand_account ON hand (account_id);
CREATE TABLE away (                      -- who is away from which day to which, and who stands in
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  account_id bigint NOT NULL REFERENCES account,
  from_day   date NOT NULL,
  to_day     date NOT NULL,              -- the last day away
  cover_id   bigint NOT NULL REFERENCES account,
  agreed_at  timestamptz,                -- NULL: whoever stands in has not said yes
  ended_at   timestamptz,
  CHECK (from_day <= to_day AND cover_id <> account_id)
);
CREATE INDEX away_account ON away (account_id) WHERE ended_at IS NULL;

-- bulk -------------------------------------------------------------------
CREATE TABLE bulk (                      -- one thing done to many cases
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id bigint REFERENCES round,      -- whose register it began in; NULL: that of all rounds
  by_id    bigint NOT NULL REFERENCES account,
  act      text NOT NULL,
  args     jsonb,                        -- NULL: not said yet
  begun_at timestamptz NOT NULL,
  says     text NOT NULL,                -- which cases, as a sentence
  back     text NOT NULL,                -- the register it came from, as an address
  stage    text NOT NULL CHECK (stage IN ('asked', 'drawing', 'drawn', 'held', 'stopped', 'doing', 'done', 'undoing', 'undone')),
  due_at   timestamptz,                  -- it is held until then
  did_at   timestamptz,
  work_id  bigint REFERENCES work
);
CREATE INDEX bulk_by ON bulk (by_id, id);
CREATE TABLE bulked (                    -- one case of it
  bulk_id        bigint NOT NULL REFERENCES bulk ON DELETE CASCADE,
  entry_id       bigint NOT NULL REFERENCES entry,
  number         int NOT NULL,           -- its place in the register
  outcome        text NOT NULL DEFAULT '' CHECK (outcome IN ('', 'would', 'not', 'stopped', 'did', 'failed', 'undone', 'stands')),
  says           text NOT NULL DEFAULT '',
  odd            boolean NOT NULL DEFAULT false,
  mails          jsonb,                  -- as drawn: to whom, subject, text
  undo           jsonb,                  -- what taking it back must know
  PRIMARY KEY (bulk_id, entry_id)
);
CREATE INDEX bulked_entry ON bulked (entry_id);
ALTER TABLE work ALTER COLUMN round_id DROP NOT NULL;       -- work on cases of many rounds
