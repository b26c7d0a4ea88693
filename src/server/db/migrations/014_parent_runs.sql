-- A run over several customers or environments. It belongs to the customer that it is about, or to the MSP.
CREATE TABLE parent_run (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  title VARCHAR(160) NOT NULL,
  state ENUM('running','stopping','stopped','done') NOT NULL,
  cause VARCHAR(24) NULL,
  policy JSON NOT NULL,
  actor VARCHAR(120) NOT NULL,
  -- As whom its parts are carried out.
  actor_id VARCHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  reason VARCHAR(255) NOT NULL,
  begun_at BIGINT NOT NULL,
  ended_at BIGINT NULL,
  version INT NOT NULL DEFAULT 1,
  lock_no BIGINT NOT NULL DEFAULT 0,
  PRIMARY KEY (customer_id, id),
  UNIQUE KEY by_id (id),
  KEY (state, id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- Each part is carried out in a transaction of its own, inside its own customer.
CREATE TABLE parent_part (
  owner_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  parent_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  place INT NOT NULL,
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  about VARCHAR(160) NOT NULL,
  input JSON NOT NULL,
  state ENUM('waiting','working','done','failed') NOT NULL,
  says VARCHAR(255) NOT NULL DEFAULT '',
  -- The run that it began, and ends with; NULL: none.
  run_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  attempt INT NOT NULL DEFAULT 0,
  -- The wall's time.
  due_wall BIGINT NOT NULL DEFAULT 0,
  ended_at BIGINT NULL,
  PRIMARY KEY (customer_id, parent_id, place),
  KEY (owner_id, parent_id),
  KEY of_parent (parent_id, place),
  KEY (customer_id, run_id),
  FOREIGN KEY (owner_id, parent_id) REFERENCES parent_run (customer_id, id),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (customer_id, run_id) REFERENCES run (customer_id, id)
);
