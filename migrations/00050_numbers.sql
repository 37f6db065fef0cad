-- +goose Up
-- Receipts and invoices are numbered without a gap: what an identity gave to a transaction
-- that came to nothing would be missing for ever, and somebody has to account for it.
CREATE TABLE fee_serial (
  series text PRIMARY KEY CHECK (series IN ('receipt', 'invoice')),
  last   bigint NOT NULL CHECK (last >= 0)
);
INSERT INTO fee_serial (series, last)
  SELECT 'receipt', COALESCE(max(number), 0) FROM payment UNION ALL SELECT 'invoice', COALESCE(max(number), 0) FROM invoice;
ALTER TABLE payment ALTER COLUMN number DROP IDENTITY;
ALTER TABLE invoice ALTER COLUMN number DROP IDENTITY;
