-- +goose Up
-- The states of core/lifecycle, which a test holds these to.
ALTER TABLE entry ADD CONSTRAINT entry_state CHECK (state IN ('invited', 'draft', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'invited on', 'awarded', 'reserve', 'not awarded', 'withdrawn'));
ALTER TABLE entry ADD CONSTRAINT entry_told CHECK (told IN ('', 'invited', 'draft', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'invited on', 'awarded', 'reserve', 'not awarded', 'withdrawn'));
ALTER TABLE standing ADD CONSTRAINT standing_state CHECK (state IN ('invited', 'draft', 'sent', 'handed back', 'complete', 'eligible', 'not eligible', 'reading', 'read', 'invited on', 'awarded', 'reserve', 'not awarded', 'withdrawn', 'lapsed'));
ALTER TABLE decision ADD CONSTRAINT decision_outcome CHECK (outcome IN ('invited on', 'awarded', 'reserve', 'not awarded'));
ALTER TABLE choice ADD CONSTRAINT choice_outcome CHECK (outcome IN ('', 'invited on', 'awarded', 'reserve', 'not awarded'));
