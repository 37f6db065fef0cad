-- +goose Up
-- Files that the office puts beside a round: to read, or a template to fill in for a slot.
CREATE TABLE guidance (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id   bigint NOT NULL REFERENCES round,
  title      text NOT NULL CHECK (title <> ''),
  slot       text NOT NULL,              -- the question whose template it is; '' for one to read
  removed_at timestamptz
);
CREATE INDEX guidance_round ON guidance (round_id);
CREATE TABLE guidance_version (          -- only added to: whoever has an old one can be told what changed
  guidance_id bigint NOT NULL REFERENCES guidance,
  number      int NOT NULL CHECK (number > 0),
  changed     text NOT NULL,             -- what is different from the one before; '' for the first
  name        text NOT NULL,
  mime        text NOT NULL,
  size        bigint NOT NULL,           -- bytes of what is given out
  sha256      text NOT NULL,             -- of what is given out: the file with its mark
  original    text NOT NULL,             -- SHA-256 of what was put up
  at          timestamptz NOT NULL,
  by_id       bigint NOT NULL REFERENCES account,
  PRIMARY KEY (guidance_id, number)
);
CREATE TRIGGER guidance_version_only_added_to BEFORE UPDATE OR DELETE ON guidance_version
  FOR EACH ROW EXECUTE FUNCTION only_added_to();
