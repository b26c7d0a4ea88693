-- Since when somebody has their account, where somebody else had it before them; 0: nobody did. What was done under the
-- account before is not theirs.
ALTER TABLE person
  ADD COLUMN IF NOT EXISTS account_since BIGINT NOT NULL DEFAULT 0 AFTER account,
  ADD KEY IF NOT EXISTS by_account (customer_id, account),
  ADD KEY IF NOT EXISTS by_former (customer_id, former);

UPDATE person n SET account_since = COALESCE((SELECT MAX(o.left_at) FROM person o FORCE INDEX (by_account)
  WHERE o.customer_id = n.customer_id AND o.account = n.account AND o.id <> n.id AND o.left_at IS NOT NULL), 0)
  WHERE n.left_at IS NULL;

-- A desktop is its person's, and no more that of whoever has the account. One that is kept is that of who left when its
-- keeping began. Any other whose account was somebody else's before may still be theirs: it is nobody's until it is assigned.
BEGIN NOT ATOMIC
  FOR desktop IN (
    SELECT t.customer_id, t.environment_id, t.version, t.at_path, t.host_key, t.left_at,
      IF(t.left_at IS NULL,
        (SELECT p.id FROM person p WHERE p.customer_id = t.customer_id AND p.held_account = t.account
          AND p.account_since = 0 LIMIT 1),
        (SELECT p.id FROM person p WHERE p.customer_id = t.customer_id AND p.account = t.account AND p.left_at IS NOT NULL
          ORDER BY ABS(CAST(p.left_at AS SIGNED) - t.left_at) LIMIT 1)) AS person_id
    FROM (
      SELECT i.customer_id, i.environment_id, i.version, h.left_at, h.account COLLATE utf8mb4_nopad_bin AS account,
        CONCAT('$.pools[', h.pool - 1, '].hosts[', h.host - 1, '].personId') AS at_path,
        CONCAT('host:', h.role, ':', h.slot) AS host_key
      FROM intent i, JSON_TABLE(i.document, '$.pools[*]' COLUMNS (
        pool FOR ORDINALITY,
        role VARCHAR(80) CHARACTER SET utf8mb4 PATH '$.role',
        NESTED PATH '$.hosts[*]' COLUMNS (
          host FOR ORDINALITY,
          slot INT PATH '$.slot',
          account VARCHAR(64) CHARACTER SET utf8mb4 PATH '$.person',
          left_at BIGINT PATH '$.leftAt'))) h
      WHERE h.account IS NOT NULL
    ) t)
  DO
    IF desktop.person_id IS NOT NULL THEN
      UPDATE intent SET document = JSON_SET(document, desktop.at_path, desktop.person_id)
        WHERE customer_id = desktop.customer_id AND environment_id = desktop.environment_id AND version = desktop.version;
      UPDATE resource r JOIN environment e ON e.customer_id = r.customer_id AND e.id = r.environment_id
        SET r.attributes = IF(desktop.left_at IS NULL, JSON_SET(r.attributes, '$.personId', desktop.person_id),
          JSON_SET(r.attributes, '$.personId', desktop.person_id, '$.kept', TRUE))
        WHERE r.customer_id = desktop.customer_id AND r.environment_id = desktop.environment_id AND r.kind = 'host'
          AND r.resource_key = desktop.host_key AND r.returned_at IS NULL AND e.version = desktop.version;
    END IF;
  END FOR;
END;

UPDATE resource r JOIN person p ON p.customer_id = r.customer_id
    AND p.held_account = JSON_VALUE(r.attributes, '$.person') COLLATE utf8mb4_nopad_bin AND p.account_since = 0
  SET r.attributes = JSON_SET(r.attributes, '$.personId', p.id)
  WHERE r.kind = 'personal-disk' AND r.returned_at IS NULL;
