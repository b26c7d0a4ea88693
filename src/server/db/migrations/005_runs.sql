CREATE TABLE run (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind ENUM('provision','retire','power-on','power-off','drain','accept') NOT NULL,
  title VARCHAR(160) NOT NULL,
  state ENUM('running','stopping','stopped','done') NOT NULL,
  cause VARCHAR(24) NULL,
  at_a_time INT NOT NULL,
  failure_limit INT NOT NULL,
  steps INT NOT NULL,
  expected_seconds INT NOT NULL,
  impact JSON NOT NULL,
  actor VARCHAR(120) NOT NULL,
  reason VARCHAR(255) NOT NULL,
  begun_at BIGINT NOT NULL,
  ended_at BIGINT NULL,
  version INT NOT NULL DEFAULT 1,
  PRIMARY KEY (customer_id, id),
  KEY (state, id),
  KEY (customer_id, environment_id),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id)
);

-- due_wall and lease_wall are the wall's times: leases do not follow the demo clock.
CREATE TABLE step (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  run_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  ordinal INT NOT NULL,
  kind VARCHAR(16) NOT NULL,
  subject VARCHAR(80) NOT NULL,
  wanted_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  state ENUM('waiting','working','done','failed') NOT NULL,
  needs_left INT NOT NULL,
  expected_seconds INT NOT NULL,
  round INT NOT NULL DEFAULT 0,
  attempt INT NOT NULL DEFAULT 0,
  fence INT NOT NULL DEFAULT 0,
  due_wall BIGINT NOT NULL DEFAULT 0,
  lease_wall BIGINT NOT NULL DEFAULT 0,
  operation VARCHAR(40) NULL,
  says VARCHAR(255) NOT NULL DEFAULT '',
  began_at BIGINT NULL,
  ended_at BIGINT NULL,
  PRIMARY KEY (customer_id, id),
  UNIQUE (id),
  KEY (customer_id, run_id, ordinal),
  KEY (state, needs_left, due_wall),
  FOREIGN KEY (customer_id, run_id) REFERENCES run (customer_id, id)
);

CREATE TABLE step_need (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  step_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  needs_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (customer_id, step_id, needs_id),
  KEY (customer_id, needs_id),
  FOREIGN KEY (customer_id, step_id) REFERENCES step (customer_id, id),
  FOREIGN KEY (customer_id, needs_id) REFERENCES step (customer_id, id)
);

-- What the worker's standing duties have got to; the lease is the wall's time.
CREATE TABLE duty (
  name VARCHAR(32) PRIMARY KEY,
  lease_wall BIGINT NOT NULL,
  due_wall BIGINT NOT NULL,
  fence INT NOT NULL,
  place VARCHAR(40) NOT NULL
);

CREATE TABLE live_event (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  topic VARCHAR(16) NOT NULL,
  subject_id VARCHAR(40) NOT NULL,
  wall_at BIGINT NOT NULL,
  KEY (wall_at)
);

CREATE TABLE trail (
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  at BIGINT NOT NULL,
  actor VARCHAR(120) NOT NULL,
  action VARCHAR(40) NOT NULL,
  subject VARCHAR(160) NOT NULL,
  run_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  before_state JSON NULL,
  after_state JSON NULL,
  reason VARCHAR(255) NOT NULL,
  UNIQUE (customer_id, id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);
