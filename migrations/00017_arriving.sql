-- +goose Up
-- A file may arrive in pieces (tus 1.0.0): its row says how much of it is here and
-- flushed, and carries the state of its SHA-256 from one piece to the next.
ALTER TABLE material
  ADD COLUMN upload text NOT NULL DEFAULT '',     -- its name in addresses; '' when it came in one piece
  ADD COLUMN head text NOT NULL DEFAULT '',       -- what its sender knows it by again
  ADD COLUMN arrived bigint NOT NULL DEFAULT 0,   -- bytes, while it is uploading
  ADD COLUMN arrived_at timestamptz,              -- when the last of them came
  ADD COLUMN hashing bytea,                       -- of the bytes that are here
  ADD COLUMN scan text NOT NULL DEFAULT '' CHECK (scan IN ('', 'waiting', 'clean', 'found')); -- '': nobody looks for viruses
CREATE INDEX material_to_scan ON material (id) WHERE scan = 'waiting';
CREATE UNIQUE INDEX material_upload ON material (upload) WHERE upload <> '';

-- What is made of a file for looking at it: without its properties, small, large.
-- cleaned is read by nothing any more; a later release drops it, so that the last
-- one can still run meanwhile.
CREATE TABLE rendition (
  made_of text NOT NULL, -- the file's SHA-256
  made    text NOT NULL CHECK (made IN ('clean', 'small', 'large')),
  sha256  text NOT NULL, -- '' when it cannot be made
  PRIMARY KEY (made_of, made)
);
INSERT INTO rendition (made_of, made, sha256) SELECT sha256, 'clean', clean FROM cleaned;
