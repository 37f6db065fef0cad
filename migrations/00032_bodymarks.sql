-- +goose Up
-- A reviewing body may be asked for a mark with its yes or no.
ALTER TABLE turn ADD COLUMN mark int;
