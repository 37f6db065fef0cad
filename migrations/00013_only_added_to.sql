-- +goose Up
-- What was done is only ever added to: the trail, seals, acts and decisions. The
-- application's role has no UPDATE and no DELETE on them (internal/platform/db
-- takes it away after every migration); triggers stop the owner's mistakes too.
-- Erasing goes through a function of the owner's that blanks particulars alone.
DROP TRIGGER trail_append_only ON trail;
DROP FUNCTION trail_is_append_only();
-- +goose StatementBegin
CREATE FUNCTION only_added_to() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  -- within erase_particulars, and nowhere else, this is set to the row it blanks
  IF TG_TABLE_NAME = 'trail' AND TG_OP = 'UPDATE' AND current_setting('ulvant.blanks', true) = OLD.id::text
     AND to_jsonb(NEW) - 'figures' = to_jsonb(OLD) - 'figures'
     AND NOT EXISTS (SELECT FROM jsonb_each_text(NEW.figures) n WHERE n.value <> '' AND n.value IS DISTINCT FROM OLD.figures->>n.key) THEN
    RETURN NEW;
  END IF;
  RAISE EXCEPTION '% is only ever added to', TG_TABLE_NAME;
END $$;

CREATE FUNCTION erase_particulars(application bigint) RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE r record;
BEGIN
  FOR r IN SELECT id, figures FROM trail WHERE application_id = application
           AND figures ?| ARRAY['referee', 'reader', 'whom'] LOOP
    PERFORM set_config('ulvant.blanks', r.id::text, true);
    UPDATE trail SET figures = (SELECT jsonb_object_agg(e.key, CASE WHEN e.key IN ('referee', 'reader', 'whom') THEN to_jsonb(''::text) ELSE e.value END) FROM jsonb_each(r.figures) e)
    WHERE id = r.id;
  END LOOP;
  PERFORM set_config('ulvant.blanks', '', true);
END $$;
-- +goose StatementEnd
REVOKE EXECUTE ON FUNCTION erase_particulars(bigint) FROM PUBLIC;

-- What became of an act's letters stands beside it, a row for each time.
CREATE TABLE act_letters (
  id     bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  act_id bigint NOT NULL REFERENCES act,
  at     timestamptz NOT NULL,
  by_id  bigint NOT NULL,
  what   text NOT NULL,                   -- stopped | released
  due_at timestamptz                      -- when released ones go out
);
CREATE INDEX act_letters_act ON act_letters (act_id, id);
INSERT INTO act_letters (act_id, at, by_id, what) SELECT id, letters_cancelled_at, by_id, 'stopped' FROM act WHERE letters_cancelled_at IS NOT NULL;
ALTER TABLE act DROP COLUMN letters_cancelled_at;
ALTER TABLE act ADD COLUMN reason text NOT NULL DEFAULT ''; -- why recorded decisions were changed by it
ALTER TABLE decision ADD COLUMN before_act bigint REFERENCES act; -- the act whose decision this one takes the place of

CREATE TRIGGER trail_only_added_to BEFORE UPDATE OR DELETE ON trail FOR EACH ROW EXECUTE FUNCTION only_added_to();
CREATE TRIGGER seal_only_added_to BEFORE UPDATE OR DELETE ON seal FOR EACH ROW EXECUTE FUNCTION only_added_to();
CREATE TRIGGER act_only_added_to BEFORE UPDATE OR DELETE ON act FOR EACH ROW EXECUTE FUNCTION only_added_to();
CREATE TRIGGER decision_only_added_to BEFORE UPDATE OR DELETE ON decision FOR EACH ROW EXECUTE FUNCTION only_added_to();
CREATE TRIGGER act_letters_only_added_to BEFORE UPDATE OR DELETE ON act_letters FOR EACH ROW EXECUTE FUNCTION only_added_to();

-- What an applicant is told of a state changes when its letter leaves.
ALTER TABLE entry ADD COLUMN told text NOT NULL DEFAULT '';   -- the state as the applicant knows it; '' as it is
ALTER TABLE entry ADD COLUMN told_act bigint REFERENCES act;  -- whose decision they know
ALTER TABLE post ADD COLUMN entry_id bigint;                  -- a letter about this entry …
ALTER TABLE post ADD COLUMN holds text NOT NULL DEFAULT '';   -- … that holds only while its state is this one
ALTER TABLE post ADD COLUMN act_id bigint;                    -- … by this act
CREATE INDEX post_entry ON post (entry_id) WHERE entry_id IS NOT NULL AND state <> 'sent';
UPDATE post o SET entry_id = d.entry_id, holds = d.outcome, act_id = d.act_id FROM decision d WHERE d.post_id = o.id;

-- An invitation to a stage that is taken back goes with what hung on it.
ALTER TABLE reminded DROP CONSTRAINT reminded_entry_id_fkey, ADD FOREIGN KEY (entry_id) REFERENCES entry ON DELETE CASCADE;
ALTER TABLE nudge DROP CONSTRAINT nudge_entry_id_fkey, ADD FOREIGN KEY (entry_id) REFERENCES entry ON DELETE CASCADE;

-- What applicants knew when this was brought in.
UPDATE entry e SET told_act = d.act_id FROM decision d JOIN post o ON o.id = d.post_id
WHERE d.entry_id = e.id AND o.state = 'sent' AND d.act_id = (SELECT max(x.act_id) FROM decision x JOIN post y ON y.id = x.post_id WHERE x.entry_id = e.id AND y.state = 'sent');
UPDATE entry e SET told = 'read' FROM decision d JOIN post o ON o.id = d.post_id
WHERE d.entry_id = e.id AND o.state IN ('held', 'cancelled') AND e.state = d.outcome AND e.told_act IS NULL AND e.state <> 'invited on';

-- What the panel has chosen for a case before it is recorded.
CREATE TABLE choice (
  entry_id bigint PRIMARY KEY REFERENCES entry,
  outcome  text NOT NULL,                 -- '' leaves it out of the next act
  amount   bigint NOT NULL,               -- minor units
  by_id    bigint NOT NULL,
  at       timestamptz NOT NULL
);

-- Long work with its progress, for all processes to see.
CREATE TABLE work (
  id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  kind     text NOT NULL,
  round_id bigint NOT NULL REFERENCES round,
  by_id    bigint NOT NULL,
  begun_at timestamptz NOT NULL,
  done     int NOT NULL DEFAULT 0,
  total    int NOT NULL,
  ended_at timestamptz,
  failed   boolean NOT NULL DEFAULT false,
  says     text NOT NULL DEFAULT ''       -- what came of it, as a sentence
);
CREATE INDEX work_round ON work (round_id, id);
