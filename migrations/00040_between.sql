-- +goose Up
-- What is decided between meetings: proposed by one who decides, and agreed to by another.
CREATE TABLE between_meetings (
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id bigint NOT NULL REFERENCES round,
  stage    text NOT NULL,
  entry_id bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  outcome  text NOT NULL,
  amount   bigint NOT NULL DEFAULT 0,
  why      text NOT NULL,
  by_id    bigint NOT NULL REFERENCES account,
  at       timestamptz NOT NULL,
  how      text NOT NULL DEFAULT '' CHECK (how IN ('', 'agreed', 'refused', 'taken back')),
  ended_by bigint REFERENCES account,
  ended_at timestamptz,
  act_id   bigint REFERENCES act
);
CREATE UNIQUE INDEX between_meetings_open ON between_meetings (entry_id) WHERE how = '';
CREATE INDEX between_meetings_round ON between_meetings (round_id) WHERE how = '';
