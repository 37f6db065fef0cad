-- +goose Up
-- What Today, a round's pages and finding read.
CREATE INDEX standing_work ON standing (state, round_id) WHERE state IN ('eligible', 'reading', 'read');
CREATE INDEX standing_entry ON standing (round_id, entry_id);
CREATE INDEX finding_open ON finding (entry_id) WHERE outcome = 'person' AND settled IS NULL;
CREATE INDEX round_answer ON round (answer_at);
-- Words of people, worked out when they change and not when they are looked for.
ALTER TABLE account ADD COLUMN words tsvector GENERATED ALWAYS AS (to_tsvector('simple'::regconfig, regexp_replace(name || ' ' || email, '[^[:alnum:]]+', ' ', 'g'))) STORED;
DROP INDEX IF EXISTS account_words, referee_words; -- over what was worked out each time
CREATE INDEX account_words ON account USING gin (words);
ALTER TABLE referee ADD COLUMN words tsvector GENERATED ALWAYS AS (to_tsvector('simple'::regconfig, regexp_replace(name || ' ' || email, '[^[:alnum:]]+', ' ', 'g'))) STORED;
CREATE INDEX referee_words ON referee USING gin (words);
