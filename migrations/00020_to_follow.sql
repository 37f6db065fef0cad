-- +goose Up
-- What an applicant said would follow after sending, and what came of it.
CREATE TABLE promised (
  entry_id    bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  question    text NOT NULL,
  due_at      timestamptz NOT NULL,
  came_at     timestamptz,
  answers     jsonb,                 -- what came, by place
  by_id       bigint REFERENCES account,
  reminded_at timestamptz,
  lapsed_at   timestamptz,           -- nothing had come when its time was over
  PRIMARY KEY (entry_id, question)
);
CREATE INDEX promised_open ON promised (due_at) WHERE came_at IS NULL AND lapsed_at IS NULL;
