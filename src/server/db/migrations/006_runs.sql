CREATE TABLE run (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  -- What it is about: an environment, an image, a site, a customer, an import or another run.
  subject_kind ENUM('environment','image','site','customer','import','run') NOT NULL,
  subject_id VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  kind VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  title VARCHAR(160) NOT NULL,
  state ENUM('running','stopping','stopped','done') NOT NULL,
  cause VARCHAR(24) NULL,
  policy JSON NOT NULL,
  at_a_time INT NOT NULL,
  failure_limit INT NOT NULL,
  -- The window that it works in now or next; NULL: it works at any time.
  works_from BIGINT NOT NULL DEFAULT 0,
  works_until BIGINT NULL,
  -- Whether it is not in its window now; a worker says so.
  waits BOOLEAN NOT NULL DEFAULT FALSE,
  steps INT NOT NULL,
  expected_seconds INT NOT NULL,
  impact JSON NOT NULL,
  -- The versions of the intent before and after: undoing goes back to the first.
  intent_before INT NULL,
  intent_after INT NULL,
  actor VARCHAR(120) NOT NULL,
  reason VARCHAR(255) NOT NULL,
  begun_at BIGINT NOT NULL,
  ended_at BIGINT NULL,
  version INT NOT NULL DEFAULT 1,
  lock_no BIGINT NOT NULL DEFAULT 0,
  PRIMARY KEY (customer_id, id),
  KEY (state, id),
  KEY newest (id),
  KEY (waits, works_from),
  KEY (works_until),
  KEY (customer_id, environment_id),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id)
);

-- due_wall and lease_wall are the wall's times: leases do not follow the demo clock.
CREATE TABLE step (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  run_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  ordinal INT NOT NULL,
  kind VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  action VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  purpose ENUM('make','change','replace','remove') NOT NULL,
  subject VARCHAR(80) NOT NULL,
  resource_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  -- Which of several alike it is.
  part INT NULL,
  -- The version of what was wanted of the resource when the run was begun.
  wanted_version INT NOT NULL DEFAULT 0,
  state ENUM('waiting','working','done','overtaken','failed') NOT NULL,
  needs_left INT NOT NULL,
  expected_seconds INT NOT NULL,
  -- Seconds from its start to the end of the longest chain behind it: the longest comes first.
  tail_seconds INT NOT NULL,
  attempt INT NOT NULL DEFAULT 0,
  -- How often what is under way was looked at.
  looks INT NOT NULL DEFAULT 0,
  fence INT NOT NULL DEFAULT 0,
  due_wall BIGINT NOT NULL DEFAULT 0,
  lease_wall BIGINT NOT NULL DEFAULT 0,
  operation VARCHAR(128) CHARACTER SET ascii COLLATE ascii_bin NULL,
  -- Grows when the provider itself says that an operation of this step failed.
  round INT NOT NULL DEFAULT 0,
  -- What the step notes for when it comes back: until when it waits.
  memo VARCHAR(80) NOT NULL DEFAULT '',
  says VARCHAR(255) NOT NULL DEFAULT '',
  began_at BIGINT NULL,
  ended_at BIGINT NULL,
  PRIMARY KEY (customer_id, id),
  UNIQUE (id),
  KEY (customer_id, run_id, ordinal),
  KEY to_do (state, needs_left, due_wall),
  KEY of_resource (customer_id, resource_id, state, ended_at),
  FOREIGN KEY (customer_id, run_id) REFERENCES run (customer_id, id),
  FOREIGN KEY (customer_id, resource_id) REFERENCES resource (customer_id, id)
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

-- The last of what a step wrote while it worked, for who looks why it failed.
CREATE TABLE step_output (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  step_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  output TEXT NOT NULL,
  PRIMARY KEY (customer_id, step_id),
  FOREIGN KEY (customer_id, step_id) REFERENCES step (customer_id, id)
);

-- What the workers do by schedule; the lease is the wall's time.
CREATE TABLE job (
  name VARCHAR(32) PRIMARY KEY,
  lease_wall BIGINT NOT NULL,
  due_wall BIGINT NOT NULL,
  done_wall BIGINT NOT NULL DEFAULT 0,
  fence INT NOT NULL,
  place VARCHAR(40) NOT NULL
);

CREATE TABLE live_event (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  topic VARCHAR(16) NOT NULL,
  subject_id VARCHAR(40) NOT NULL,
  wall_at BIGINT NOT NULL,
  KEY (wall_at)
);

CREATE TABLE trail (
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  at BIGINT NOT NULL,
  actor VARCHAR(120) NOT NULL,
  -- Null: Laager itself.
  actor_role ENUM('engineer','lead','bookkeeper','auditor') NULL,
  actor_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  action VARCHAR(40) NOT NULL,
  subject VARCHAR(160) NOT NULL,
  run_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  before_state JSON NULL,
  after_state JSON NULL,
  reason VARCHAR(255) NOT NULL,
  UNIQUE (customer_id, id),
  KEY of_actor (actor_id, at),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (customer_id, run_id) REFERENCES run (customer_id, id)
);

-- A proposal that is held as it was looked at: what it takes is nobody else's until then.
CREATE TABLE held_proposal (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  title VARCHAR(160) NOT NULL,
  asked JSON NOT NULL,
  fingerprint VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  takes JSON NOT NULL,
  -- The address block that its customer gets with it.
  block VARCHAR(18) CHARACTER SET ascii COLLATE ascii_bin AS (JSON_VALUE(takes, '$.block')) STORED,
  actor VARCHAR(120) NOT NULL,
  actor_id VARCHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  -- Why a lead who did not ask for it has to begin it; NULL: whoever may begin the change may.
  waits VARCHAR(200) NULL,
  reason VARCHAR(255) NOT NULL,
  made_at BIGINT NOT NULL,
  until_at BIGINT NOT NULL,
  PRIMARY KEY (customer_id, id),
  KEY at_site (site_code, until_at),
  KEY (until_at),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id),
  FOREIGN KEY (site_code) REFERENCES site (code)
);

-- How long each kind of step takes at a site, as it was learnt from the last that were done; in seconds.
CREATE TABLE step_time (
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  step_key VARCHAR(90) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  times INT NOT NULL,
  median DECIMAL(12,3) NOT NULL,
  late DECIMAL(12,3) NOT NULL,
  PRIMARY KEY (site_code, step_key),
  FOREIGN KEY (site_code) REFERENCES site (code)
);
