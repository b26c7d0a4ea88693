-- What is wanted of hosts otherwise than the intent says, for a while: by hand, because their customer is paused, or by the
-- rota. A row says one attribute of one host, or of every host of its customer where no host is named.
CREATE TABLE IF NOT EXISTS host_override (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  -- The host, or empty: every host of the customer.
  subject CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  cause ENUM('by hand','customer paused','rota') NOT NULL,
  attribute ENUM('power','accepting','picture') NOT NULL,
  value VARCHAR(8) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  resource_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  why VARCHAR(255) NOT NULL,
  made_by VARCHAR(120) NOT NULL,
  since_at BIGINT NOT NULL,
  -- NULL: until it is removed.
  until_at BIGINT NULL,
  PRIMARY KEY (customer_id, subject, cause, attribute),
  KEY of_host (customer_id, resource_id),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (customer_id, resource_id) REFERENCES resource (customer_id, id)
);

-- When overrides of its hosts are to be looked at next, because one begins or ends; and how hosts are switched then.
ALTER TABLE environment
  ADD COLUMN IF NOT EXISTS overrides_due_at BIGINT NULL,
  ADD COLUMN IF NOT EXISTS overrides_policy JSON NULL,
  ADD KEY IF NOT EXISTS overrides_due (overrides_due_at);

-- Hosts that are off or drained without anybody having left, and not because of a pause, are so by hand.
INSERT IGNORE INTO host_override (customer_id, subject, cause, attribute, value, resource_id, why, made_by, since_at)
  SELECT r.customer_id, r.id, 'by hand', 'power', 'off', r.id, 'set before', '', r.created_at
  FROM resource r JOIN customer c ON c.id = r.customer_id
  WHERE r.kind = 'host' AND r.wanted AND r.returned_at IS NULL AND JSON_VALUE(r.attributes, '$.power') = 'off'
    AND JSON_VALUE(r.attributes, '$.kept') IS NULL
    AND (c.state <> 'paused' OR NOT EXISTS (SELECT 1 FROM paused_host p
      WHERE p.customer_id = r.customer_id AND p.resource_id = r.id));

INSERT IGNORE INTO host_override (customer_id, subject, cause, attribute, value, resource_id, why, made_by, since_at)
  SELECT customer_id, id, 'by hand', 'accepting', 'false', id, 'set before', '', created_at FROM resource
  WHERE kind = 'host' AND wanted AND returned_at IS NULL AND JSON_VALUE(attributes, '$.accepting') IN ('0', 'false');

INSERT IGNORE INTO host_override (customer_id, subject, cause, attribute, value, resource_id, why, made_by, since_at)
  SELECT customer_id, id, 'by hand', 'picture', 'true', id, 'set before', '', created_at FROM resource
  WHERE kind = 'host' AND wanted AND returned_at IS NULL AND IFNULL(JSON_VALUE(attributes, '$.picture'), '0') <> '0';

INSERT IGNORE INTO host_override (customer_id, subject, cause, attribute, value, resource_id, why, made_by, since_at)
  SELECT id, '', 'customer paused', 'power', 'off', NULL, 'paused before', '', 0 FROM customer WHERE state = 'paused';

-- `paused_host` is read no more. It goes with the next version: processes of the version before still write it.

-- How often something was asked of a host is counted no more.
UPDATE resource SET attributes = JSON_REMOVE(attributes, '$.restarts', '$.anew', '$.returns') WHERE kind = 'host';
UPDATE resource SET attributes = IF(JSON_VALUE(attributes, '$.picture') = '0', JSON_REMOVE(attributes, '$.picture'),
    JSON_SET(attributes, '$.picture', JSON_EXTRACT('true', '$')))
  WHERE kind = 'host' AND JSON_EXISTS(attributes, '$.picture');
