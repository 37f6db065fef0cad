-- +goose Up
-- Who gets in: naming somebody waits for their yes, sessions end when idle,
-- what touches the safety of an account is kept, and an address of the site
-- waits behind a link that somebody must press first.
ALTER TABLE session ADD COLUMN seen_at timestamptz;
UPDATE session SET seen_at = created_at;
ALTER TABLE session ALTER COLUMN seen_at SET NOT NULL;

ALTER TABLE attempt ADD COLUMN id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY;

ALTER TABLE link ADD COLUMN next text NOT NULL DEFAULT '';  -- where its use leads on to, an address of this site

CREATE TABLE security_event (             -- kept for the person and the office to look at
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  account_id bigint NOT NULL REFERENCES account ON DELETE CASCADE,
  at         timestamptz NOT NULL,
  what       text NOT NULL,               -- say.Security has the sentences
  client     text NOT NULL                -- network address it came from; '' when it was nobody's request
);
CREATE INDEX security_event_account ON security_event (account_id, id);
CREATE INDEX security_event_at ON security_event (at);

CREATE TABLE invitation (                 -- to a part in an application, until it is answered
  id             bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  application_id bigint NOT NULL REFERENCES application ON DELETE CASCADE,
  email          text NOT NULL,           -- as the lead named them, folded
  name           text NOT NULL,           -- as the lead named them
  part           text NOT NULL,           -- teammate | commenter | lead
  asked_by       bigint NOT NULL REFERENCES account,
  asked_at       timestamptz NOT NULL,
  state          text NOT NULL DEFAULT 'asked', -- asked | accepted | declined | taken back
  answered_at    timestamptz,
  answered_by    bigint REFERENCES account
);
CREATE UNIQUE INDEX invitation_asked ON invitation (application_id, email) WHERE state = 'asked';
CREATE INDEX invitation_email ON invitation (email) WHERE state = 'asked';

ALTER TABLE material ADD COLUMN by_kind text NOT NULL DEFAULT 'account'; -- of by_id: an account's, or a personal link's
UPDATE material SET by_kind = 'link' WHERE referee_id IS NOT NULL;
CREATE INDEX material_by ON material (by_kind, by_id);
CREATE INDEX material_removed ON material (removed_at) WHERE removed_at IS NOT NULL AND name <> '';

CREATE TABLE cleaned (                    -- files without the properties that name who made them, for rounds that hide names
  sha256 text PRIMARY KEY,                -- of the file as it was put in
  clean  text NOT NULL                    -- of the file without them; '' when they cannot be taken out
);
