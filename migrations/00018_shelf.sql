-- +goose Up
-- The shelf: files that a person or an organisation keeps for several applications.
CREATE TABLE shelved (
  id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  account_id  bigint REFERENCES account,  -- whose it is: a person's …
  profile_id  bigint REFERENCES profile,  -- … or an organisation's
  name        text NOT NULL,
  size        bigint NOT NULL,
  sha256      text NOT NULL,              -- '' when it was erased
  mime        text NOT NULL,
  facts       jsonb NOT NULL,
  scan        text NOT NULL,
  good_until  date,                       -- after which it is out of date; NULL: always good
  by_id       bigint NOT NULL,
  at          timestamptz NOT NULL,
  removed_at  timestamptz,
  CHECK ((account_id IS NULL) <> (profile_id IS NULL))
);
CREATE INDEX shelved_account ON shelved (account_id) WHERE removed_at IS NULL;
CREATE INDEX shelved_profile ON shelved (profile_id) WHERE removed_at IS NULL;
ALTER TABLE material ADD COLUMN shelved_id bigint REFERENCES shelved; -- the file on a shelf that was attached
CREATE INDEX material_shelved ON material (shelved_id) WHERE shelved_id IS NOT NULL;
