-- +goose Up
-- What lies beyond one application: who of one case belongs to somebody of
-- another, or to whoever judges; and texts that share passages.
CREATE TABLE party (                     -- a person or body as one place says it
  id             bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  application_id bigint REFERENCES application ON DELETE CASCADE, -- NULL: of no case, an account that judges or gives
  lead_id        bigint,                 -- whose case it is
  account_id     bigint,                 -- their own account, where they have one
  part           text NOT NULL,          -- core/connected.Part
  place          text NOT NULL,          -- within the case: lead, referee 12, people/r0001
  name           text NOT NULL,
  body           boolean NOT NULL DEFAULT false,
  mails          text[] NOT NULL DEFAULT '{}',
  phones         text[] NOT NULL DEFAULT '{}',
  addresses      text[] NOT NULL DEFAULT '{}',
  numbers        text[] NOT NULL DEFAULT '{}',
  mark           text NOT NULL,          -- who it is, as rulings remember it
  CHECK (application_id IS NOT NULL OR account_id IS NOT NULL)
);
CREATE UNIQUE INDEX party_place ON party (application_id, place) WHERE application_id IS NOT NULL;
CREATE UNIQUE INDEX party_account ON party (account_id) WHERE application_id IS NULL;
CREATE TABLE party_key (                 -- by what it is found; core/connected.Key
  key      text NOT NULL,
  party_id bigint NOT NULL REFERENCES party ON DELETE CASCADE,
  finds    boolean NOT NULL,
  PRIMARY KEY (key, party_id)
);
CREATE INDEX party_key_party ON party_key (party_id);
CREATE TABLE connection (                -- a claim that two parties belong together
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  one      bigint NOT NULL REFERENCES party ON DELETE CASCADE,
  other    bigint NOT NULL REFERENCES party ON DELETE CASCADE,
  same     boolean NOT NULL,             -- the same one; else two who share something
  bits     real NOT NULL,
  evidence jsonb NOT NULL,               -- [core/connected.Evidence]
  found_at timestamptz NOT NULL,
  UNIQUE (one, other),
  CHECK (one < other)
);
CREATE INDEX connection_other ON connection (other);
CREATE TABLE ruling (                    -- what a person said of two, for every place they meet in
  one     text NOT NULL,                 -- their marks, the lesser first
  other   text NOT NULL,
  matters boolean NOT NULL,
  note    text NOT NULL,
  by_id   bigint NOT NULL,
  at      timestamptz NOT NULL,
  PRIMARY KEY (one, other)
);
CREATE TABLE prose (                     -- a text of a sealed entry that is compared with others
  id             bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  application_id bigint NOT NULL REFERENCES application ON DELETE CASCADE,
  entry_id       bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  lead_id        bigint NOT NULL,
  question       text NOT NULL,
  words          int NOT NULL,
  UNIQUE (entry_id, question)
);
CREATE INDEX prose_application ON prose (application_id);
CREATE TABLE prose_mark (                -- core/likeness.Marks
  mark     bigint NOT NULL,
  prose_id bigint NOT NULL REFERENCES prose ON DELETE CASCADE,
  PRIMARY KEY (mark, prose_id)
);
CREATE INDEX prose_mark_prose ON prose_mark (prose_id);
CREATE TABLE likeness (                  -- two texts that share much
  id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  one       bigint NOT NULL REFERENCES prose ON DELETE CASCADE,
  other     bigint NOT NULL REFERENCES prose ON DELETE CASCADE,
  contained real NOT NULL,               -- of the shorter, in the other; 0 to 1
  shared    int NOT NULL,                -- words in shared passages
  found_at  timestamptz NOT NULL,
  matters   boolean,                     -- what a person said; NULL: nothing yet
  note      text NOT NULL DEFAULT '',
  by_id     bigint,
  at        timestamptz,
  UNIQUE (one, other),
  CHECK (one < other)
);
CREATE INDEX likeness_other ON likeness (other);
CREATE TABLE gathered (                  -- which seal of an entry its parties and texts were taken from
  entry_id bigint PRIMARY KEY REFERENCES entry ON DELETE CASCADE,
  seal_id  bigint NOT NULL
);

-- checking ---------------------------------------------------------------
CREATE TABLE proposed (                  -- what an applicant proposed for a list of the round
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  round_id bigint NOT NULL REFERENCES round,
  question text NOT NULL,
  list     text NOT NULL,
  text     text NOT NULL,
  folded   text NOT NULL,                -- as it is compared with others
  ruling   text NOT NULL DEFAULT '' CHECK (ruling IN ('', 'taken', 'once', 'refused')),
  reason   text NOT NULL DEFAULT '',
  by_id    bigint,
  at       timestamptz,
  UNIQUE (entry_id, question, folded)
);
CREATE INDEX proposed_round ON proposed (round_id, list, folded);
CREATE TABLE turn (                      -- a reviewing body's turn with a case
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  round_id bigint NOT NULL REFERENCES round,
  body     text NOT NULL,
  number   int NOT NULL,                 -- its place among those that the case is for, from 1
  state    text NOT NULL CHECK (state IN ('waits', 'with', 'yes', 'no', 'over', 'back')),
  since    timestamptz NOT NULL,
  due_at   timestamptz,
  points   jsonb NOT NULL DEFAULT '{}',  -- what it looked at: key → met
  note     text NOT NULL DEFAULT '',
  by_id    bigint,
  told_at  timestamptz,                  -- its people know that it is with them
  reminded_at timestamptz,
  UNIQUE (entry_id, body)
);
CREATE INDEX turn_body ON turn (round_id, body, state);
CREATE INDEX turn_due ON turn (due_at) WHERE state = 'with';
CREATE TABLE sentence (                  -- an own sentence of the office, kept to be used again
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  kind     text NOT NULL,                -- settle | query
  text     text NOT NULL,
  by_id    bigint NOT NULL REFERENCES account,
  at       timestamptz NOT NULL,
  used     int NOT NULL DEFAULT 0,
  ended_at timestamptz
);
CREATE UNIQUE INDEX sentence_text ON sentence (kind, text) WHERE ended_at IS NULL;
CREATE TABLE worked (                    -- by which design the rules of an entry were worked last
  entry_id  bigint PRIMARY KEY REFERENCES entry ON DELETE CASCADE,
  design_id bigint NOT NULL
);
CREATE TABLE register_answer (           -- what a register said of a case's body, each time it said something else
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  scheme   text NOT NULL,
  value    text NOT NULL,
  finding  text NOT NULL,                -- core/profile.Finding
  name     text NOT NULL,                -- it has there
  at       timestamptz NOT NULL,
  asked_at timestamptz NOT NULL,         -- when it last said so
  offer    boolean NOT NULL DEFAULT false, -- asked again because of an offer
  seen_at  timestamptz                   -- a person has looked at what changed
);
CREATE INDEX register_answer_entry ON register_answer (entry_id, id);
CREATE INDEX register_answer_unseen ON register_answer (entry_id) WHERE offer AND seen_at IS NULL;

-- watching ---------------------------------------------------------------
CREATE TABLE support (                   -- an applicant asked for support to apply
  id             bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  application_id bigint NOT NULL REFERENCES application ON DELETE CASCADE,
  asked_at       timestamptz NOT NULL,
  by_id          bigint NOT NULL REFERENCES account,
  text           text NOT NULL,
  ended_at       timestamptz,            -- somebody of the office has seen to it
  ended_by       bigint,
  note           text NOT NULL DEFAULT '' -- what was done; the applicant reads it
);
CREATE INDEX support_application ON support (application_id);
CREATE INDEX support_open ON support (asked_at) WHERE ended_at IS NULL;
