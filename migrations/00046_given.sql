-- +goose Up
-- Gifts are decided beside the money of the request: pieces, or money of another kind.
CREATE TABLE given (
  act_id   bigint NOT NULL,
  entry_id bigint NOT NULL,
  gift     text NOT NULL,
  units    bigint NOT NULL CHECK (units > 0), -- pieces, or minor units
  PRIMARY KEY (act_id, entry_id, gift),
  FOREIGN KEY (act_id, entry_id) REFERENCES decision
);
CREATE INDEX given_entry ON given (entry_id);
CREATE TRIGGER given_only_added_to BEFORE UPDATE OR DELETE ON given FOR EACH ROW EXECUTE FUNCTION only_added_to();
ALTER TABLE choice ADD COLUMN gifts jsonb; -- how much of each is chosen; NULL: nobody has

-- How much of each gift was asked is known from now on.
UPDATE standing SET known = false WHERE round_id IN (SELECT r.id FROM round r JOIN design d ON d.id = r.design_id WHERE d.document ? 'gifts');
