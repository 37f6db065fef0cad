-- +goose Up
-- The office is told before a promise to look an organisation over runs out.
ALTER TABLE profile ADD COLUMN told_at timestamptz;
