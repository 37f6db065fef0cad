-- +goose Up
-- What-ifs: an order tried under rules of one's own. Nothing is decided by one.
CREATE TABLE what_if (
  id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id   bigint NOT NULL REFERENCES round,
  stage      text NOT NULL,
  name       text NOT NULL,
  rules      jsonb NOT NULL,            -- internal/decision.Tried
  version    int NOT NULL DEFAULT 1,
  at         timestamptz NOT NULL,
  by_id      bigint NOT NULL REFERENCES account,
  adopted_at timestamptz,               -- its outcomes were last taken over into the decisions; nil: never
  UNIQUE (round_id, stage, name)
);
