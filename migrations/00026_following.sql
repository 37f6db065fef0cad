-- +goose Up
-- Papers that were promised and came stand beside the answers that did.
ALTER TABLE promised ADD COLUMN files jsonb; -- as in a seal; NULL for none
