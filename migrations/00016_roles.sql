-- +goose Up
-- Roles at the office take the place of account.office, which nothing reads any
-- more; a later release drops it, so that the last one can still run meanwhile.
CREATE TABLE account_role (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  account_id bigint NOT NULL REFERENCES account (id) ON DELETE CASCADE,
  role       text NOT NULL CHECK (role IN ('runs rounds', 'looks after cases', 'checks', 'prepares money', 'releases money', 'chairs', 'looks only')),
  programme  text NOT NULL DEFAULT '', -- '' for every one
  round_id   bigint REFERENCES round (id),
  place      text NOT NULL DEFAULT '', -- a stream or area of the round
  given_by   bigint NOT NULL, -- 0: the command line
  given_at   timestamptz NOT NULL,
  until      timestamptz,
  ended_by   bigint,
  ended_at   timestamptz,
  CHECK (place = '' OR round_id IS NOT NULL)
);
CREATE UNIQUE INDEX account_role_held ON account_role (account_id, role, programme, COALESCE(round_id, 0), place) WHERE ended_at IS NULL;
INSERT INTO account_role (account_id, role, given_by, given_at) SELECT id, 'runs rounds', 0, COALESCE(confirmed_at, created_at) FROM account WHERE office;
