-- +goose Up
-- Who is where in a case, and what is said beside its answers.
CREATE TABLE presence (                   -- one row for each open page; swept
  tab            text PRIMARY KEY,
  application_id bigint NOT NULL REFERENCES application,
  account_id     bigint NOT NULL REFERENCES account,
  section        text NOT NULL,
  at             timestamptz NOT NULL
);
CREATE INDEX presence_application ON presence (application_id, at);

CREATE TABLE comment (                    -- beside a question of a draft; never sent with it
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id   bigint NOT NULL REFERENCES entry,
  question   text NOT NULL,
  by_id      bigint NOT NULL REFERENCES account,
  at         timestamptz NOT NULL,
  text       text NOT NULL,
  done_at    timestamptz                  -- when somebody ticked it off
);
CREATE INDEX comment_entry ON comment (entry_id, question, id);

-- An application that is an earlier one sent in again.
ALTER TABLE application ADD COLUMN resubmits bigint REFERENCES application;
