-- +goose Up
-- The office: finding anything by its words, who looks after what, and nudges.
ALTER TABLE standing ADD COLUMN words tsvector NOT NULL DEFAULT '';
UPDATE standing st SET words = to_tsvector('simple', regexp_replace(a.title || ' ' || p.name || ' ' || p.email || ' ' || st.place, '[^[:alnum:]]+', ' ', 'g'))
FROM application a JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id WHERE a.id = st.application_id;
CREATE INDEX standing_words ON standing USING gin (words);
CREATE INDEX standing_application ON standing (application_id);
CREATE INDEX application_ref_begins ON application (ref text_pattern_ops);
CREATE INDEX account_words ON account USING gin (to_tsvector('simple', regexp_replace(name || ' ' || email, '[^[:alnum:]]+', ' ', 'g')));
CREATE INDEX referee_words ON referee USING gin (to_tsvector('simple', regexp_replace(name || ' ' || email, '[^[:alnum:]]+', ' ', 'g')));

CREATE TABLE care (                       -- who looks after the cases of a place or field
  round_id   bigint NOT NULL REFERENCES round,
  place      text NOT NULL,               -- as standing.place; '' for all that have no other
  account_id bigint NOT NULL REFERENCES account,
  PRIMARY KEY (round_id, place)
);

CREATE TABLE nudge (                      -- somebody who blocks was written to
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  entry_id bigint NOT NULL REFERENCES entry,
  at       timestamptz NOT NULL,
  by_id    bigint NOT NULL,
  whom     text NOT NULL,                 -- the mover: applicant | third party
  name     text NOT NULL
);
CREATE INDEX nudge_entry ON nudge (entry_id, at);
