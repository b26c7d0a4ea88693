-- When the identity service last said who somebody is; null: they do not come by it.
ALTER TABLE operator ADD COLUMN IF NOT EXISTS outside_wall BIGINT NULL;
UPDATE operator SET outside_wall = COALESCE(last_seen_at, 0) WHERE issuer IS NOT NULL AND outside_wall IS NULL;

-- Who invited them, and when: a new lead approves nothing of that one at first. An invitation that is to be mailed still.
ALTER TABLE operator ADD COLUMN IF NOT EXISTS invited_by CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL;
ALTER TABLE operator ADD COLUMN IF NOT EXISTS invited_wall BIGINT NULL;
ALTER TABLE invite ADD COLUMN IF NOT EXISTS sealed VARBINARY(255) NULL;

-- Who began a run, and whether a lead approved it who did not ask for it.
ALTER TABLE run ADD COLUMN IF NOT EXISTS actor_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL;
ALTER TABLE run ADD COLUMN IF NOT EXISTS approved BOOLEAN NOT NULL DEFAULT FALSE;
ALTER TABLE run ADD KEY IF NOT EXISTS by_actor (customer_id, actor_id, begun_at);
