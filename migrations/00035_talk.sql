-- +goose Up
-- A discussion between the readers of a case whose marks are far apart.
CREATE TABLE talk (
  entry_id  bigint PRIMARY KEY REFERENCES entry ON DELETE CASCADE,
  opened_at timestamptz NOT NULL,
  by_id     bigint NOT NULL,
  why       text NOT NULL
);
CREATE TABLE talk_said (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id   bigint NOT NULL REFERENCES talk ON DELETE CASCADE,
  account_id bigint NOT NULL REFERENCES account,
  at         timestamptz NOT NULL,
  text       text NOT NULL
);
CREATE INDEX talk_said_entry ON talk_said (entry_id, id);
-- what readers still have to send, looked through for reminders
CREATE INDEX assignment_open ON assignment (entry_id) WHERE sent_at IS NULL;
