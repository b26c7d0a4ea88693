-- Who acted, by id: what concerns no customer is shown to whoever did it and to those who reach every customer.
ALTER TABLE trail ADD COLUMN actor_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT 'system';

-- Kept answers are sealed. Those kept in clear are forgotten: a key is remembered for a day at most.
DELETE FROM idempotency;
ALTER TABLE idempotency MODIFY COLUMN body MEDIUMBLOB NULL;
