-- +goose Up
-- Fees that are paid: what is charged when an application is sent, at which desk
-- it is paid, what came in and what goes back, and the ledger of all of it.
ALTER TABLE entry DROP CONSTRAINT entry_state, ADD CONSTRAINT entry_state CHECK (state IN ('invited', 'draft', 'waiting for payment', 'not paid', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'invited on', 'awarded', 'reserve', 'not awarded', 'withdrawn'));
ALTER TABLE entry DROP CONSTRAINT entry_told, ADD CONSTRAINT entry_told CHECK (told IN ('', 'invited', 'draft', 'waiting for payment', 'not paid', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'invited on', 'awarded', 'reserve', 'not awarded', 'withdrawn'));
ALTER TABLE standing DROP CONSTRAINT standing_state, ADD CONSTRAINT standing_state CHECK (state IN ('invited', 'draft', 'waiting for payment', 'not paid', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'invited on', 'awarded', 'reserve', 'not awarded', 'withdrawn', 'lapsed'));

-- What an entry is to pay, as it was worked out when it was sent. Sums are in
-- minor units of the currency, here and below.
CREATE TABLE charge (
  entry_id       bigint PRIMARY KEY REFERENCES entry,
  application_id bigint NOT NULL REFERENCES application,
  round_id       bigint NOT NULL REFERENCES round,
  currency       text NOT NULL,
  lines          jsonb NOT NULL,              -- as they were read: label, why, count, each, sum
  total          bigint NOT NULL CHECK (total >= 0),
  let_off        bigint NOT NULL DEFAULT 0,   -- what is asked no longer
  lapsed         bigint NOT NULL DEFAULT 0,   -- the part of it that is asked again if it was paid in time
  code           text NOT NULL DEFAULT '',    -- key of the code that was used
  at             timestamptz NOT NULL,
  closes         timestamptz NOT NULL,        -- a payment is begun before it
  pay_by         timestamptz NOT NULL,        -- and through before it
  invoice        boolean NOT NULL DEFAULT false,
  stand          text NOT NULL CHECK (stand IN ('waiting', 'in', 'over', 'gone')),
  owed           bigint NOT NULL,             -- still to be paid; below 0 what is owed to the payer
  reminded_at    timestamptz
);
CREATE INDEX charge_round ON charge (round_id, entry_id);
CREATE INDEX charge_waiting ON charge (pay_by) WHERE stand = 'waiting';
CREATE INDEX charge_code ON charge (round_id, code) WHERE code <> '';

-- Somebody else whom an applicant asked to pay, by a link of their own.
CREATE TABLE payer (
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id bigint NOT NULL REFERENCES charge,
  name     text NOT NULL,
  email    text NOT NULL,
  by_id    bigint NOT NULL,
  at       timestamptz NOT NULL,
  ended_at timestamptz
);
CREATE INDEX payer_entry ON payer (entry_id);

-- A try at paying: the checkout at the desk. What it was asked with stays the
-- same, so that asking once more under its key is the same checkout.
CREATE TABLE checkout (
  id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id  bigint NOT NULL REFERENCES charge,
  payer_id  bigint REFERENCES payer,          -- NULL: the applicant
  key       text NOT NULL UNIQUE,             -- idempotency key
  amount    bigint NOT NULL CHECK (amount > 0),
  what      text NOT NULL,
  back      text NOT NULL,                    -- where the payer comes back to
  begun_at  timestamptz NOT NULL,
  until_at  timestamptz NOT NULL,
  desk      text UNIQUE,                      -- the desk's number; NULL: it has not answered yet
  state     text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'paid', 'closed')),
  declined  int NOT NULL DEFAULT 0,
  next_ask  timestamptz NOT NULL              -- when the desk is asked by itself what came of it
);
CREATE INDEX checkout_entry ON checkout (entry_id, id);
CREATE INDEX checkout_open ON checkout (next_ask) WHERE state = 'open';

CREATE TABLE payment (
  number      bigint GENERATED ALWAYS AS IDENTITY UNIQUE, -- of its receipt
  id          text PRIMARY KEY,               -- the desk's number, or “bank …”
  entry_id    bigint NOT NULL REFERENCES charge,
  checkout_id bigint REFERENCES checkout,     -- NULL: by transfer
  amount      bigint NOT NULL CHECK (amount > 0),
  begun_at    timestamptz NOT NULL,
  at          timestamptz NOT NULL,
  bank        boolean NOT NULL,
  keeps       bigint NOT NULL,                -- what of it counted when it came
  why         text NOT NULL,                  -- why the rest went back at once; '' for nothing
  known_at    timestamptz NOT NULL
);
CREATE INDEX payment_entry ON payment (entry_id, at);

CREATE TABLE returned (
  key        text PRIMARY KEY,                -- ours, under which the desk is asked
  entry_id   bigint NOT NULL REFERENCES charge,
  place      int NOT NULL,                    -- in the order they were made
  payment_id text NOT NULL,
  amount     bigint NOT NULL CHECK (amount > 0),
  why        text NOT NULL,
  state      text NOT NULL CHECK (state IN ('proposed', 'wanted', 'done', 'refused', 'failed', 'asked again')),
  desk       text NOT NULL DEFAULT '',
  bank       boolean NOT NULL,
  reason     text NOT NULL DEFAULT '',        -- of the office
  by_id      bigint NOT NULL DEFAULT 0,       -- who proposed it
  agreed_id  bigint NOT NULL DEFAULT 0,       -- the second person
  at         timestamptz NOT NULL,
  done_at    timestamptz
);
CREATE INDEX returned_entry ON returned (entry_id, place);
CREATE INDEX returned_open ON returned (at) WHERE state IN ('proposed', 'wanted', 'failed');

-- The ledger of fees (core/ledger). The same event twice is one row.
CREATE TABLE ledger (
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id bigint NOT NULL REFERENCES charge,
  round_id bigint NOT NULL REFERENCES round,
  kind     text NOT NULL CHECK (kind IN ('charged', 'let off', 'paid', 'paid in', 'given back', 'sent back')),
  ref      text NOT NULL,
  amount   bigint NOT NULL CHECK (amount > 0),
  at       timestamptz NOT NULL,              -- when it happened
  kept_at  timestamptz NOT NULL,              -- when it was known here
  by_id    bigint NOT NULL,
  UNIQUE (entry_id, ref)
);
CREATE INDEX ledger_round ON ledger (round_id, id);
CREATE TRIGGER ledger_only_added_to BEFORE UPDATE OR DELETE ON ledger FOR EACH ROW EXECUTE FUNCTION only_added_to();

-- Notices of the desk that were taken, each once.
CREATE TABLE notice (
  id     text PRIMARY KEY,
  at     timestamptz NOT NULL,
  known  boolean NOT NULL                     -- it is about a checkout of ours
);

-- The office asks nothing of an entry, said before or after it was sent.
CREATE TABLE waiver (
  entry_id bigint PRIMARY KEY REFERENCES entry,
  round_id bigint NOT NULL REFERENCES round,
  reason   text NOT NULL,
  by_id    bigint NOT NULL,
  at       timestamptz NOT NULL
);
CREATE INDEX waiver_round ON waiver (round_id);

CREATE TABLE invoice (
  entry_id bigint PRIMARY KEY REFERENCES charge,
  number   bigint GENERATED ALWAYS AS IDENTITY UNIQUE,
  payer_id bigint NOT NULL REFERENCES payer,  -- to whom it went
  address  text NOT NULL,
  theirs   text NOT NULL,                     -- their own reference
  at       timestamptz NOT NULL,
  due_on   date NOT NULL
);
