-- Until when what was taken out of use is kept for its data; null: it is not, or no longer.
ALTER TABLE resource
  ADD COLUMN retained_until BIGINT NULL,
  ADD KEY retained (retained_until, customer_id);
-- The step that is done at once, though the run has to wait for its window: people are warned before it comes.
ALTER TABLE run
  ADD COLUMN ahead_step CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL;
ALTER TABLE step
  MODIFY purpose ENUM('make','change','replace','remove','retain') NOT NULL;
-- Hosts write profiles to their share: it goes after them, also where it was made before that was said.
UPDATE resource h JOIN resource s ON s.customer_id = h.customer_id AND s.environment_id = h.environment_id
    AND s.returned_at IS NULL
    AND s.resource_key = CONCAT('share:', SUBSTRING_INDEX(SUBSTRING_INDEX(h.resource_key, ':', 2), ':', -1))
  SET h.needs = JSON_ARRAY_APPEND(h.needs, '$', s.resource_key)
  WHERE h.kind = 'host' AND h.returned_at IS NULL AND NOT JSON_CONTAINS(h.needs, JSON_QUOTE(s.resource_key));
