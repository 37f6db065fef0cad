-- +goose Up
-- Text messages for those who chose them: a number that is confirmed by the link
-- that was sent to it.
ALTER TABLE account
  ADD COLUMN texts    text NOT NULL DEFAULT '', -- E.164; '' for none
  ADD COLUMN texts_at timestamptz;              -- when its link was pressed; NULL: not yet
