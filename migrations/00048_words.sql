-- +goose Up
-- What is written in a file, as far as it can be read, is kept like what else is made of it.
ALTER TABLE rendition DROP CONSTRAINT rendition_made_check,
  ADD CONSTRAINT rendition_made_check CHECK (made IN ('clean', 'small', 'large', 'words'));
-- What is made of two files can be the same bytes; they are there as long as one of them is.
CREATE INDEX rendition_sha256 ON rendition (sha256);
