-- +goose Up
-- What people answered in the survey after sending. It is kept apart: nothing
-- leads from an answered survey to who answered it, and it keeps no time of day.
CREATE TABLE survey (
  id        uuid NOT NULL DEFAULT gen_random_uuid() PRIMARY KEY, -- drawn by lot, so that their order tells nothing
  round_id  bigint NOT NULL REFERENCES round,
  design_id bigint NOT NULL REFERENCES design,
  day       date NOT NULL,
  answers   jsonb NOT NULL               -- what is typed, by place
);
CREATE INDEX survey_round ON survey (round_id, id);

CREATE TABLE surveyed (                   -- whose survey is in
  application_id bigint PRIMARY KEY REFERENCES application
);
