-- +goose Up
-- More time for one applicant, and what the office hands back.
ALTER TABLE entry ADD COLUMN more_until timestamptz;

CREATE TABLE query (                      -- the office's question to one applicant
  id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id  bigint NOT NULL REFERENCES entry,
  asked_at  timestamptz NOT NULL,
  by_id     bigint NOT NULL,
  text      text NOT NULL,
  questions text[] NOT NULL,              -- those that can be answered again
  due_at    timestamptz NOT NULL,
  seal_id   bigint NOT NULL REFERENCES seal, -- as it stood when it was asked
  ended     text NOT NULL DEFAULT '',     -- answered | taken back | ran out; '' while it is open
  ended_at  timestamptz,
  reply     text NOT NULL DEFAULT '',
  seen_at   timestamptz                   -- when the office put the answer aside as seen
);
CREATE UNIQUE INDEX query_open ON query (entry_id) WHERE ended = '';
CREATE INDEX query_entry ON query (entry_id, id);
CREATE INDEX query_unseen ON query (ended_at) WHERE ended = 'answered' AND seen_at IS NULL;
CREATE INDEX query_due ON query (due_at) WHERE ended = '';

CREATE TABLE moretime (                   -- somebody asks for more time
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id   bigint NOT NULL REFERENCES entry,
  asked_at   timestamptz,                 -- NULL when the office gave it unasked
  reason     text NOT NULL DEFAULT '',
  decided_at timestamptz,
  decided_by bigint,
  until      timestamptz,                 -- NULL: not given
  note       text NOT NULL DEFAULT ''
);
CREATE INDEX moretime_entry ON moretime (entry_id, id);
CREATE INDEX moretime_open ON moretime (asked_at) WHERE decided_at IS NULL;

CREATE TABLE enquiry (                    -- a question about a round, answered once for all to see
  id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id    bigint NOT NULL REFERENCES round,
  by_id       bigint NOT NULL,
  at          timestamptz NOT NULL,
  text        text NOT NULL,
  answer      text NOT NULL DEFAULT '',
  answered_at timestamptz,
  answered_by bigint,
  public      boolean NOT NULL DEFAULT false
);
CREATE INDEX enquiry_round ON enquiry (round_id, id);
CREATE INDEX enquiry_open ON enquiry (at) WHERE answered_at IS NULL;

CREATE TABLE answer_before (              -- earlier versions of an answer
  entry_id   bigint NOT NULL REFERENCES entry,
  question   text NOT NULL,
  row_key    text NOT NULL DEFAULT '',
  column_key text NOT NULL DEFAULT '',
  version    int NOT NULL,
  value      text NOT NULL,
  non        text NOT NULL DEFAULT '',
  by_id      bigint NOT NULL,
  at         timestamptz NOT NULL,
  PRIMARY KEY (entry_id, question, row_key, column_key, version)
);

CREATE TABLE health (                     -- how the program answered, minute by minute
  at         timestamptz PRIMARY KEY,
  requests   int NOT NULL,
  faults     int NOT NULL,
  slowest_ms int NOT NULL
);
CREATE INDEX trail_late ON trail (round_id, id) WHERE verb = 'late';
