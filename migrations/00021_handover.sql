-- +goose Up
-- Who is to be the authorised person of an organisation in another's place: it
-- holds once they agree, and the reason is kept.
CREATE TABLE profile_handover (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  profile_id bigint NOT NULL REFERENCES profile,
  from_id    bigint REFERENCES account,   -- who was; NULL: nobody
  to_id      bigint NOT NULL REFERENCES account,
  by_id      bigint NOT NULL REFERENCES account,
  by_office  boolean NOT NULL,
  reason     text NOT NULL,
  state      text NOT NULL CHECK (state IN ('asked', 'agreed', 'refused', 'taken back')),
  asked_at   timestamptz NOT NULL,
  at         timestamptz NOT NULL
);
CREATE UNIQUE INDEX profile_handover_open ON profile_handover (profile_id) WHERE state = 'asked';
CREATE INDEX profile_handover_profile ON profile_handover (profile_id, id);
