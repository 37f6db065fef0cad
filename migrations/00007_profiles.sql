-- +goose Up
-- Profiles of persons and organisations, which fill applications.
CREATE TABLE profile (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  kind       text NOT NULL,               -- person | organisation
  name       text NOT NULL,
  facts      jsonb NOT NULL DEFAULT '{}', -- core/profile.Facts
  state      text NOT NULL,
  made_at    timestamptz NOT NULL,
  facts_at   timestamptz NOT NULL,        -- when the facts were last looked at by those they are of
  sent_at    timestamptz,                 -- to be looked over
  promised   timestamptz,                 -- by when the office does
  decided_at timestamptz,
  decided_by bigint,
  note       text NOT NULL DEFAULT ''
);
CREATE INDEX profile_waiting ON profile (promised) WHERE state = 'waits for the office';
CREATE INDEX profile_words ON profile USING gin (to_tsvector('simple', name));

CREATE TABLE profile_number (             -- what the register said of a registered number
  profile_id bigint NOT NULL REFERENCES profile,
  scheme     text NOT NULL,
  value      text NOT NULL,               -- in its one form
  finding    text NOT NULL DEFAULT '',    -- '' until it was looked up
  register   text NOT NULL DEFAULT '',    -- the name it has there
  looked_at  timestamptz,
  PRIMARY KEY (profile_id, scheme, value)
);
CREATE INDEX profile_number_value ON profile_number (scheme, value);
CREATE INDEX profile_number_again ON profile_number (looked_at) WHERE finding IN ('', 'no answer');

CREATE TABLE profile_member (
  profile_id bigint NOT NULL REFERENCES profile,
  account_id bigint NOT NULL REFERENCES account,
  kind       text NOT NULL,               -- authorised | administrator
  since      timestamptz NOT NULL,
  PRIMARY KEY (profile_id, account_id)
);
CREATE INDEX profile_member_account ON profile_member (account_id, profile_id);
CREATE UNIQUE INDEX profile_authorised ON profile_member (profile_id) WHERE kind = 'authorised';

CREATE TABLE profile_officer (            -- who may sign for an organisation
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  profile_id bigint NOT NULL REFERENCES profile,
  name       text NOT NULL,
  email      text NOT NULL,
  post       text NOT NULL,               -- chair, treasurer …
  state      text NOT NULL,               -- asked | confirmed | refused | revoked
  at         timestamptz NOT NULL
);
CREATE INDEX profile_officer_profile ON profile_officer (profile_id, id);

CREATE TABLE profile_code (               -- to join one that exists; it went to the address on file
  profile_id bigint NOT NULL REFERENCES profile,
  account_id bigint NOT NULL REFERENCES account,
  hash       bytea NOT NULL,
  expires_at timestamptz NOT NULL,
  PRIMARY KEY (profile_id, account_id)
);

ALTER TABLE application ADD COLUMN profile_id bigint REFERENCES profile;
CREATE INDEX application_profile ON application (profile_id) WHERE profile_id IS NOT NULL;
