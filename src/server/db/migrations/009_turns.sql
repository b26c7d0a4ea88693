-- Who changes what hangs on one of these takes the row's turn: by writing it, so that also on a replicated cluster, where
-- row locks are each server's own, no two can.
ALTER TABLE customer ADD COLUMN turn BIGINT NOT NULL DEFAULT 0;
ALTER TABLE site ADD COLUMN turn BIGINT NOT NULL DEFAULT 0;
ALTER TABLE environment ADD COLUMN turn BIGINT NOT NULL DEFAULT 0;
ALTER TABLE run ADD COLUMN turn BIGINT NOT NULL DEFAULT 0;
