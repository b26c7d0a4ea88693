CREATE TABLE provider (
  code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  url VARCHAR(255) NOT NULL,
  account VARCHAR(80) NOT NULL,
  secret_sealed VARBINARY(512) NOT NULL,
  sign_in_works BOOLEAN NOT NULL DEFAULT FALSE,
  sign_in_says VARCHAR(255) NOT NULL DEFAULT 'not tried yet',
  -- Wall times: when it was last tried, and when it last gave a good answer.
  tried_wall BIGINT NULL,
  answered_wall BIGINT NULL,
  -- How far its record of changes has been read.
  feed_place VARCHAR(40) NOT NULL DEFAULT '0',
  -- And its record of who comes and goes; null: everyone who is in is to be read.
  session_place VARCHAR(40) NULL,
  -- What it asks, as it told when it was last read.
  prices JSON NULL,
  -- Whatever happened there before is known.
  read_until BIGINT NOT NULL DEFAULT 0
);

CREATE TABLE site (
  code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  provider_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(80) NOT NULL,
  kind ENUM('own nodes','hosted region') NOT NULL,
  reserved_addresses INT NOT NULL,
  images JSON NOT NULL,
  sizes JSON NOT NULL,
  quota JSON NULL,
  read_at BIGINT NOT NULL,
  lock_no BIGINT NOT NULL DEFAULT 0,
  FOREIGN KEY (provider_code) REFERENCES provider (code)
);

CREATE TABLE node (
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id VARCHAR(32) NOT NULL,
  zone VARCHAR(32) NOT NULL,
  vcpu INT NOT NULL,
  memory_gib INT NOT NULL,
  disk_gib INT NOT NULL,
  dedicated_to VARCHAR(16) NULL,
  state ENUM('up','lost') NOT NULL,
  PRIMARY KEY (site_code, id),
  FOREIGN KEY (site_code) REFERENCES site (code)
);

CREATE TABLE address_range (
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  cidr VARCHAR(18) NOT NULL,
  PRIMARY KEY (site_code, cidr),
  FOREIGN KEY (site_code) REFERENCES site (code)
);
