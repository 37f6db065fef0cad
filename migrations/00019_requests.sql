-- +goose Up
-- Everybody who answers by a link: what was asked of them, how often they were
-- reminded, what came back of their mail, and what exactly they confirmed.
ALTER TABLE referee
  ADD COLUMN waived      boolean,                              -- sight of the letter given up by the applicant; NULL: not asked
  ADD COLUMN contact     boolean,                              -- the office may get in touch; NULL: not asked
  ADD COLUMN reminders   int NOT NULL DEFAULT 0,               -- in whatever way
  ADD COLUMN next_at     timestamptz,                          -- when the next reminder falls due
  ADD COLUMN until       timestamptz,                          -- later than its date, by leave of the office
  ADD COLUMN why_not     text NOT NULL DEFAULT '',             -- why it was declined
  ADD COLUMN instead     text NOT NULL DEFAULT '',             -- whom they suggest
  ADD COLUMN theirs      jsonb NOT NULL DEFAULT '{}',          -- what they answered themselves, by place
  ADD COLUMN confirmed   jsonb,                                -- a signatory's word: what it said, as it stood
  ADD COLUMN fingerprint text NOT NULL DEFAULT '',             -- of that
  ADD COLUMN arrived     date,                                 -- came by post; the office put it in
  ADD COLUMN entered_by  bigint REFERENCES account,            -- who at the office
  ADD COLUMN reused      bigint REFERENCES referee,            -- the letter it was taken from
  ADD COLUMN post_id     bigint,                               -- the mail that asked
  ADD COLUMN bounced_at  timestamptz,                          -- that mail came back …
  ADD COLUMN bounce      text NOT NULL DEFAULT '';             -- … for this reason
-- a letter has several pages now, all that are not taken out; before, the last one put up counted
UPDATE material m SET removed_at = m.at FROM referee r WHERE m.referee_id = r.id AND m.removed_at IS NULL AND m.id <> COALESCE(r.letter_file, 0);
UPDATE referee SET reminders = 1 WHERE reminded_at IS NOT NULL;
UPDATE referee SET next_at = state_at WHERE state IN ('asked', 'accepted', 'uploaded');
DROP INDEX referee_remind;
CREATE INDEX referee_next ON referee (next_at) WHERE next_at IS NOT NULL;
CREATE INDEX referee_email ON referee (email) WHERE email <> '';
CREATE INDEX referee_application ON referee (application_id);

ALTER TABLE profile_officer
  ADD COLUMN asked_at   timestamptz,
  ADD COLUMN reminders  int NOT NULL DEFAULT 0,
  ADD COLUMN reminded_at timestamptz,
  ADD COLUMN next_at    timestamptz,
  ADD COLUMN confirmed  text NOT NULL DEFAULT '', -- what they confirmed, in the words they saw
  ADD COLUMN bounced_at timestamptz,
  ADD COLUMN bounce     text NOT NULL DEFAULT '';
UPDATE profile_officer SET next_at = at WHERE state = 'asked';
CREATE INDEX profile_officer_next ON profile_officer (next_at) WHERE next_at IS NOT NULL;
CREATE INDEX profile_officer_email ON profile_officer (email);

ALTER TABLE sponsor
  ADD COLUMN email      text NOT NULL DEFAULT '', -- where the link went; '' when nobody is known
  ADD COLUMN to_name    text NOT NULL DEFAULT '',
  ADD COLUMN reminders  int NOT NULL DEFAULT 0,
  ADD COLUMN reminded_at timestamptz,
  ADD COLUMN next_at    timestamptz,
  ADD COLUMN confirmed  text NOT NULL DEFAULT '',
  ADD COLUMN bounced_at timestamptz,
  ADD COLUMN bounce     text NOT NULL DEFAULT '';
CREATE INDEX sponsor_next ON sponsor (next_at) WHERE next_at IS NOT NULL;
CREATE INDEX sponsor_email ON sponsor (email) WHERE email <> '';

ALTER TABLE post
  ADD COLUMN bounced_at timestamptz,              -- it came back …
  ADD COLUMN bounce     text NOT NULL DEFAULT ''; -- … with this status and reason
CREATE INDEX post_bounced ON post (round_id, bounced_at) WHERE bounced_at IS NOT NULL;
CREATE INDEX post_to ON post (to_address);
