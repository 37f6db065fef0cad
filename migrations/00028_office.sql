-- +goose Up
-- More roles, with what they hold for; and invitations to one, which holds when
-- whoever is invited says yes.
ALTER TABLE account_role DROP CONSTRAINT account_role_role_check,
  ADD CONSTRAINT account_role_role_check CHECK (role IN ('runs rounds', 'looks after cases', 'checks', 'prepares money', 'releases money', 'chairs', 'sits on the panel', 'reviews for a body', 'looks only', 'gives an award')),
  ADD COLUMN body text NOT NULL DEFAULT '',  -- of the round
  ADD COLUMN award text NOT NULL DEFAULT '', -- of the round
  ADD CHECK ((body <> '') = (role = 'reviews for a body') AND (award <> '') = (role = 'gives an award')),
  ADD CHECK (body = '' AND award = '' OR round_id IS NOT NULL);
DROP INDEX account_role_held;
CREATE UNIQUE INDEX account_role_held ON account_role (account_id, role, programme, COALESCE(round_id, 0), place, body, award) WHERE ended_at IS NULL;
CREATE TABLE role_invitation (
  id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  email       text NOT NULL,                 -- folded to lower case
  name        text NOT NULL,
  role        text NOT NULL,
  programme   text NOT NULL DEFAULT '',
  round_id    bigint REFERENCES round,
  place       text NOT NULL DEFAULT '',
  body        text NOT NULL DEFAULT '',
  award       text NOT NULL DEFAULT '',
  until       timestamptz,
  by_id       bigint NOT NULL REFERENCES account,
  at          timestamptz NOT NULL,
  link_id     bigint REFERENCES link,
  accepted_at timestamptz,
  ended_at    timestamptz,                   -- declined, or taken back
  declined    boolean NOT NULL DEFAULT false
);
CREATE INDEX role_invitation_open ON role_invitation (email) WHERE accepted_at IS NULL AND ended_at IS NULL;

CREATE TABLE funder (                        -- what holds for the whole office; one row
  one      boolean PRIMARY KEY DEFAULT true CHECK (one),
  settings jsonb NOT NULL,
  version  int NOT NULL DEFAULT 1,
  by_id    bigint NOT NULL,
  at       timestamptz NOT NULL
);
