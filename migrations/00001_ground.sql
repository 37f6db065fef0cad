-- +goose Up
-- Times are handed in by the program; nothing here calls now(). Texts that
-- name a state hold the words of core/lifecycle and core/form.

-- people ---------------------------------------------------------------
CREATE TABLE account (
  id            bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  email         text NOT NULL,            -- folded to lower case
  name          text NOT NULL,
  password_hash text NOT NULL,
  office        boolean NOT NULL DEFAULT false,
  demo_note     text NOT NULL DEFAULT '', -- what the demo's sign-in page says of them
  confirmed_at  timestamptz,
  created_at    timestamptz NOT NULL
);
CREATE UNIQUE INDEX account_email ON account (email);

CREATE TABLE session (
  token_hash bytea PRIMARY KEY,
  account_id bigint NOT NULL REFERENCES account ON DELETE CASCADE,
  created_at timestamptz NOT NULL,
  expires_at timestamptz NOT NULL
);
CREATE INDEX session_account ON session (account_id);
CREATE INDEX session_expires ON session (expires_at);

-- platform -------------------------------------------------------------
CREATE TABLE attempt (                    -- limits on guesses, for all processes
  bucket text NOT NULL,
  at     timestamptz NOT NULL
);
CREATE INDEX attempt_bucket ON attempt (bucket, at);

CREATE TABLE link (                       -- personal links; the token is derived, never stored
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  purpose    text NOT NULL,               -- confirm | referee | reader
  subject    bigint NOT NULL,
  generation int NOT NULL DEFAULT 1,
  token_hash bytea NOT NULL,
  created_at timestamptz NOT NULL,
  expires_at timestamptz NOT NULL,
  used_at    timestamptz
);
CREATE UNIQUE INDEX link_token ON link (token_hash);
CREATE UNIQUE INDEX link_subject ON link (purpose, subject);


-- trail ----------------------------------------------------------------
CREATE TABLE trail (
  id             bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  at             timestamptz NOT NULL,
  by_kind        text NOT NULL,           -- account | link | job | nobody
  by_id          bigint NOT NULL,
  verb           text NOT NULL,
  application_id bigint,
  round_id       bigint,
  figures        jsonb NOT NULL DEFAULT '{}'
);
CREATE INDEX trail_application ON trail (application_id, id);
CREATE INDEX trail_round ON trail (round_id, id);
CREATE INDEX trail_verb ON trail (verb, id);
-- +goose StatementBegin
CREATE FUNCTION trail_is_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF current_setting('ulvant.erasing', true) = 'on' THEN RETURN COALESCE(NEW, OLD); END IF;
  RAISE EXCEPTION 'the trail is only ever added to';
END $$;
-- +goose StatementEnd
CREATE TRIGGER trail_append_only BEFORE UPDATE OR DELETE ON trail FOR EACH ROW EXECUTE FUNCTION trail_is_append_only();

-- post -----------------------------------------------------------------
CREATE TABLE post (
  id             bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  message_id     text NOT NULL UNIQUE,
  bounce_token   text NOT NULL UNIQUE,
  kind           text NOT NULL,
  account_id     bigint,
  application_id bigint,
  round_id       bigint,
  to_address     text NOT NULL,
  to_name        text NOT NULL,
  reply_to       text NOT NULL DEFAULT '',
  subject        text NOT NULL,
  body           text NOT NULL,           -- {{link}} stands where a personal link goes
  link_id        bigint,
  attach_seal    bigint,
  state          text NOT NULL,           -- held | sent | cancelled
  created_at     timestamptz NOT NULL,
  due_at         timestamptz NOT NULL,
  sent_at        timestamptz
);
CREATE INDEX post_application ON post (application_id, id);
CREATE INDEX post_round_held ON post (round_id, due_at) WHERE state = 'held';

-- round ----------------------------------------------------------------
CREATE TABLE round (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  key        text NOT NULL UNIQUE,        -- in addresses
  name       text NOT NULL,
  programme  text NOT NULL,
  currency   text NOT NULL,
  working    jsonb NOT NULL,              -- the design being worked on
  design_id  bigint,                      -- the published one; NULL: not open to anyone yet
  opens_at   timestamptz NOT NULL,        -- copies of the design's, for lists
  closes_at  timestamptz NOT NULL,
  answer_at  timestamptz NOT NULL,
  created_at timestamptz NOT NULL,
  changed_at timestamptz NOT NULL
);
CREATE INDEX round_public ON round (closes_at, id) WHERE design_id IS NOT NULL;

CREATE TABLE design (
  id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id     bigint NOT NULL REFERENCES round,
  number       int NOT NULL,
  document     jsonb NOT NULL,
  sha256       bytea NOT NULL,
  published_at timestamptz NOT NULL,
  published_by bigint NOT NULL,
  UNIQUE (round_id, number)
);
ALTER TABLE round ADD FOREIGN KEY (design_id) REFERENCES design;

CREATE TABLE operation (                  -- changes of working designs, with what undoes them
  round_id  bigint NOT NULL REFERENCES round,
  number    int NOT NULL,
  at        timestamptz NOT NULL,
  by_id     bigint NOT NULL,
  ops       jsonb NOT NULL,
  inverse   jsonb NOT NULL,
  sentence  text NOT NULL,
  path      text NOT NULL,                -- where it was made
  undone_at timestamptz,
  PRIMARY KEY (round_id, number)
);

CREATE TABLE pattern (                    -- sections kept to be used again
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  name       text NOT NULL UNIQUE,
  section    jsonb NOT NULL,
  by_id      bigint NOT NULL,
  at         timestamptz NOT NULL
);

-- application ----------------------------------------------------------
CREATE TABLE refserial (prefix text PRIMARY KEY, last int NOT NULL);

CREATE TABLE application (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  ref        text NOT NULL UNIQUE,
  round_id   bigint NOT NULL REFERENCES round,
  title      text NOT NULL,
  created_at timestamptz NOT NULL
);
CREATE INDEX application_round ON application (round_id, id);

CREATE TABLE relation (                   -- who is what to a case
  application_id bigint NOT NULL REFERENCES application,
  account_id     bigint NOT NULL REFERENCES account,
  kind           text NOT NULL,           -- lead | teammate
  PRIMARY KEY (application_id, account_id, kind)
);
CREATE INDEX relation_account ON relation (account_id, application_id);
CREATE UNIQUE INDEX relation_lead ON relation (application_id) INCLUDE (account_id) WHERE kind = 'lead';

CREATE TABLE entry (                      -- one application in one stage
  id             bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  application_id bigint NOT NULL REFERENCES application,
  stage          text NOT NULL,
  design_id      bigint NOT NULL REFERENCES design,
  state          text NOT NULL,
  state_at       timestamptz NOT NULL,
  version        int NOT NULL DEFAULT 1,  -- rises with every state
  seal_id        bigint,
  UNIQUE (application_id, stage)
);

CREATE TABLE answer (
  entry_id   bigint NOT NULL REFERENCES entry,
  question   text NOT NULL,
  row_key    text NOT NULL DEFAULT '',
  column_key text NOT NULL DEFAULT '',
  version    int NOT NULL,
  edit_id    text NOT NULL,
  value      text NOT NULL,
  non        text NOT NULL DEFAULT '',    -- an allowed non-answer, such as "not known"
  by_id      bigint NOT NULL,
  at         timestamptz NOT NULL,
  PRIMARY KEY (entry_id, question, row_key, column_key)
);

CREATE TABLE seal (
  id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id  bigint NOT NULL REFERENCES entry,
  number    int NOT NULL,
  at        timestamptz NOT NULL,
  by_id     bigint NOT NULL,
  document  bytea NOT NULL,               -- canonical JSON
  sha256    bytea NOT NULL,
  signature bytea NOT NULL,               -- Ed25519 over sha256
  UNIQUE (entry_id, number)
);
ALTER TABLE entry ADD FOREIGN KEY (seal_id) REFERENCES seal;

CREATE TABLE standing (                   -- what lists show; written with its cause
  entry_id       bigint PRIMARY KEY REFERENCES entry,
  round_id       bigint NOT NULL,
  application_id bigint NOT NULL,
  state          text NOT NULL,
  move           text NOT NULL,
  obstacles      text[] NOT NULL,
  done           int NOT NULL,
  required       int NOT NULL,
  asked          bigint,                  -- minor units
  place          text NOT NULL DEFAULT '',-- label of the first listed choice, for lists
  verdict        text NOT NULL,
  letter         text NOT NULL DEFAULT '',-- the letter furthest behind
  sent_at        timestamptz,
  changed_at     timestamptz NOT NULL,
  valid_until    timestamptz
);
CREATE INDEX standing_list ON standing (round_id, application_id);
CREATE INDEX standing_state ON standing (round_id, state, application_id);
CREATE INDEX standing_move ON standing (round_id, move, application_id);
CREATE INDEX standing_sweep ON standing (valid_until) WHERE valid_until IS NOT NULL;

-- material -------------------------------------------------------------
CREATE TABLE material (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id   bigint REFERENCES entry,     -- NULL for a referee's letter
  referee_id bigint,
  slot       text NOT NULL,
  name       text NOT NULL,
  size       bigint NOT NULL,
  sha256     text NOT NULL DEFAULT '',
  mime       text NOT NULL DEFAULT '',
  state      text NOT NULL,
  finding    text NOT NULL DEFAULT '',
  facts      jsonb NOT NULL DEFAULT '{}',  -- pages, pixels, seconds …
  place      int NOT NULL DEFAULT 1000,    -- among the files of its slot
  by_id      bigint NOT NULL,
  at         timestamptz NOT NULL,
  removed_at timestamptz
);
CREATE INDEX material_entry ON material (entry_id) WHERE removed_at IS NULL;
CREATE INDEX material_referee ON material (referee_id) WHERE removed_at IS NULL;
CREATE INDEX material_sweep ON material (at) WHERE state IN ('uploading', 'inspecting');

-- reference ------------------------------------------------------------
CREATE TABLE referee (
  id             bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id       bigint NOT NULL REFERENCES entry,
  application_id bigint NOT NULL REFERENCES application,
  question       text NOT NULL,
  name           text NOT NULL,
  email          text NOT NULL,
  knows          text NOT NULL,           -- how they know the applicant
  state          text NOT NULL,
  state_at       timestamptz NOT NULL,
  letter         text NOT NULL DEFAULT '',
  letter_file    bigint REFERENCES material,
  dated          date,                    -- the day on the letter, where it is asked
  years_from     int NOT NULL DEFAULT 0,  -- the years it speaks of, where they are asked
  years_to       int NOT NULL DEFAULT 0,
  paper          boolean NOT NULL DEFAULT false, -- signed on paper: nobody is written to, a checker looks at the scan
  version        int NOT NULL DEFAULT 1,
  reminded_at    timestamptz
);
CREATE INDEX referee_entry ON referee (entry_id);
CREATE INDEX referee_remind ON referee (state, state_at);

-- check ----------------------------------------------------------------
CREATE TABLE finding (                    -- one rule worked through for one entry
  entry_id   bigint NOT NULL REFERENCES entry,
  rule       text NOT NULL,
  outcome    text NOT NULL,               -- yes | no | person
  reason     text NOT NULL,
  worked_at  timestamptz NOT NULL,
  settled    text,                        -- yes | no, by a person
  note       text NOT NULL DEFAULT '',
  settled_by bigint,
  settled_at timestamptz,
  PRIMARY KEY (entry_id, rule)
);

-- reading --------------------------------------------------------------
CREATE TABLE reader (
  round_id   bigint NOT NULL REFERENCES round,
  account_id bigint NOT NULL REFERENCES account,
  invited_at timestamptz NOT NULL,
  accepted_at timestamptz,
  PRIMARY KEY (round_id, account_id)
);
CREATE INDEX reader_account ON reader (account_id);

CREATE TABLE recusal (
  application_id bigint NOT NULL REFERENCES application,
  account_id     bigint NOT NULL REFERENCES account,
  reason         text NOT NULL,
  at             timestamptz NOT NULL,
  PRIMARY KEY (application_id, account_id)
);

CREATE TABLE assignment (
  entry_id       bigint NOT NULL REFERENCES entry,
  application_id bigint NOT NULL REFERENCES application,
  account_id     bigint NOT NULL REFERENCES account,
  given_at       timestamptz NOT NULL,
  note           text NOT NULL DEFAULT '',
  version        int NOT NULL DEFAULT 1,
  sent_at        timestamptz,
  PRIMARY KEY (entry_id, account_id)
);
CREATE INDEX assignment_account ON assignment (account_id, entry_id);

CREATE TABLE mark (
  entry_id   bigint NOT NULL,
  account_id bigint NOT NULL,
  criterion  text NOT NULL,
  value      int NOT NULL,
  at         timestamptz NOT NULL,
  PRIMARY KEY (entry_id, account_id, criterion),
  FOREIGN KEY (entry_id, account_id) REFERENCES assignment ON DELETE CASCADE
);

-- decision -------------------------------------------------------------
CREATE TABLE act (                        -- one recording of decisions
  id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id  bigint NOT NULL REFERENCES round,
  at        timestamptz NOT NULL,
  by_id     bigint NOT NULL,
  note      text NOT NULL,
  letters_at timestamptz NOT NULL,        -- when its letters go out
  letters_cancelled_at timestamptz
);
CREATE INDEX act_round ON act (round_id, id);

CREATE TABLE decision (
  act_id   bigint NOT NULL REFERENCES act,
  entry_id bigint NOT NULL REFERENCES entry,
  outcome  text NOT NULL,
  amount   bigint NOT NULL,               -- minor units
  rank     int NOT NULL,
  post_id  bigint REFERENCES post,
  PRIMARY KEY (act_id, entry_id)
);
CREATE INDEX decision_entry ON decision (entry_id);
