-- Wanted: what should be.
CREATE TABLE environment (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(24) NOT NULL,
  site_code VARCHAR(16) NOT NULL,
  template_code VARCHAR(32) NOT NULL,
  revision INT NOT NULL,
  wanted ENUM('serving','retired') NOT NULL,
  people INT NOT NULL,
  created_at BIGINT NOT NULL,
  retired_at BIGINT NULL,
  -- A name is free again once its environment is retired.
  held_name VARCHAR(24) AS (IF(retired_at IS NULL, name, NULL)) STORED,
  version INT NOT NULL DEFAULT 1,
  PRIMARY KEY (customer_id, id),
  UNIQUE (customer_id, held_name),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (site_code) REFERENCES site (code),
  FOREIGN KEY (template_code, revision) REFERENCES template_revision (template_code, revision)
);

CREATE TABLE network (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  site_code VARCHAR(16) NOT NULL,
  cidr VARCHAR(18) NOT NULL,
  returned_at BIGINT NULL,
  held_site VARCHAR(16) AS (IF(returned_at IS NULL, site_code, NULL)) STORED,
  PRIMARY KEY (customer_id, id),
  UNIQUE (customer_id, held_site),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

CREATE TABLE pool (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  network_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(24) NOT NULL,
  image VARCHAR(80) NOT NULL,
  size VARCHAR(16) NOT NULL,
  seats INT NOT NULL,
  arrival ENUM('spread','fill') NOT NULL,
  disk_gib INT NOT NULL,
  subnet_cidr VARCHAR(18) NOT NULL,
  share_gib INT NOT NULL,
  items JSON NOT NULL,
  returned_at BIGINT NULL,
  PRIMARY KEY (customer_id, id),
  KEY (customer_id, environment_id),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id),
  FOREIGN KEY (customer_id, network_id) REFERENCES network (customer_id, id)
);

CREATE TABLE host (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  pool_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(15) NOT NULL COLLATE utf8mb4_general_ci,
  address VARCHAR(15) NOT NULL,
  node VARCHAR(32) NULL,
  wanted_power ENUM('on','off') NOT NULL,
  wanted_accepting BOOLEAN NOT NULL,
  returned_at BIGINT NULL,
  -- A computer name is unique in the customer's directory whatever its case, and free again once returned.
  held_name VARCHAR(15) COLLATE utf8mb4_general_ci AS (IF(returned_at IS NULL, name, NULL)) STORED,
  version INT NOT NULL DEFAULT 1,
  PRIMARY KEY (customer_id, id),
  UNIQUE (customer_id, held_name),
  KEY (customer_id, pool_id),
  FOREIGN KEY (customer_id, pool_id) REFERENCES pool (customer_id, id)
);

-- Done: which resource of the provider was made for which wanted thing.
CREATE TABLE link (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind ENUM('network','subnet','share','pool','host') NOT NULL,
  wanted_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  ref CHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
  made_at BIGINT NOT NULL,
  PRIMARY KEY (customer_id, id),
  KEY (customer_id, kind, wanted_id),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id)
);

-- Present: what the provider said when it was last read. Without a customer: it matches nothing we know.
CREATE TABLE observed (
  ref CHAR(12) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  kind ENUM('network','subnet','share','pool','host') NOT NULL,
  name VARCHAR(80) NOT NULL,
  site_code VARCHAR(16) NOT NULL,
  state VARCHAR(16) NOT NULL,
  size VARCHAR(16) NULL,
  disk_gib INT NULL,
  node VARCHAR(32) NULL,
  accepting BOOLEAN NULL,
  agent VARCHAR(16) NULL,
  joined VARCHAR(80) NULL,
  made_at BIGINT NOT NULL,
  changed_at BIGINT NOT NULL,
  gone_at BIGINT NULL,
  UNIQUE (customer_id, ref),
  KEY (customer_id, environment_id),
  KEY (site_code, kind, state),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id)
);

CREATE TABLE session_seen (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  host_ref CHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  account VARCHAR(80) NOT NULL,
  state ENUM('active','idle') NOT NULL,
  since BIGINT NOT NULL,
  PRIMARY KEY (customer_id, id),
  KEY (customer_id, host_ref),
  FOREIGN KEY (customer_id, host_ref) REFERENCES observed (customer_id, ref)
);
