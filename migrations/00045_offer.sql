-- +goose Up
-- What is awarded is offered, and accepted or declined, each award for itself.
ALTER TABLE entry DROP CONSTRAINT entry_state, DROP CONSTRAINT entry_told,
  ADD CONSTRAINT entry_state CHECK (state IN ('invited', 'draft', 'waiting for payment', 'not paid', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'interview', 'invited on', 'awarded', 'offered', 'accepted', 'declined', 'offer lapsed', 'reserve', 'not awarded', 'withdrawn')),
  ADD CONSTRAINT entry_told CHECK (told IN ('', 'invited', 'draft', 'waiting for payment', 'not paid', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'interview', 'invited on', 'awarded', 'offered', 'accepted', 'declined', 'offer lapsed', 'reserve', 'not awarded', 'withdrawn'));
ALTER TABLE standing DROP CONSTRAINT standing_state,
  ADD CONSTRAINT standing_state CHECK (state IN ('invited', 'draft', 'waiting for payment', 'not paid', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'interview', 'invited on', 'awarded', 'offered', 'accepted', 'declined', 'offer lapsed', 'reserve', 'not awarded', 'withdrawn', 'lapsed'));

CREATE TABLE offer (
  id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id    bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  round_id    bigint NOT NULL REFERENCES round,
  act_id      bigint NOT NULL REFERENCES act, -- the decision it makes an offer of
  award       text NOT NULL DEFAULT '',       -- '': the sum as a whole
  amount      bigint NOT NULL,                -- minor units
  made_at     timestamptz NOT NULL,           -- when its letter left
  due_at      timestamptz NOT NULL,           -- answered before it
  answer      text NOT NULL CHECK (answer IN ('open', 'accepted', 'declined', 'lapsed')),
  answered_at timestamptz,
  by_id       bigint REFERENCES account,      -- NULL: the clock
  why         text NOT NULL DEFAULT '',
  reminded_at timestamptz,
  over        boolean NOT NULL DEFAULT false, -- another decision was told since
  UNIQUE (act_id, entry_id, award)
);
CREATE INDEX offer_due ON offer (due_at) WHERE answer = 'open' AND NOT over;
CREATE INDEX offer_entry ON offer (entry_id);
CREATE INDEX offer_round ON offer (round_id, answer, due_at) WHERE NOT over;

-- What came back of a decision, which itself is never changed: it is free for others.
CREATE TABLE came_back (
  act_id   bigint NOT NULL REFERENCES act,
  entry_id bigint NOT NULL REFERENCES entry ON DELETE CASCADE,
  award    text NOT NULL,   -- '': the sum as a whole
  amount   bigint NOT NULL, -- minor units
  PRIMARY KEY (entry_id, act_id, award)
);
-- What is left of the sum of a decision.
CREATE FUNCTION left_of(act bigint, entry bigint, amount bigint) RETURNS bigint LANGUAGE sql STABLE AS
  $$ SELECT amount - COALESCE((SELECT sum(b.amount) FROM came_back b WHERE b.entry_id = entry AND b.act_id = act), 0)::bigint $$;
