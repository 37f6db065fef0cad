-- +goose Up
-- A second body sends single cases of a meeting back, and confirms the rest.
ALTER TABLE panel_item ADD COLUMN back text NOT NULL DEFAULT ''; -- why; '': it is not sent back
ALTER TABLE panel_item ADD COLUMN back_by bigint REFERENCES account;
CREATE INDEX panel_item_entry ON panel_item (entry_id);
