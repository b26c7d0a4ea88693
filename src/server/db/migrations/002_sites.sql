CREATE TABLE provider (
  code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  url VARCHAR(255) NOT NULL,
  account VARCHAR(80) NOT NULL,
  secret_sealed VARBINARY(512) NOT NULL,
  -- When it holds no more, as whoever gave it said; null: nobody did.
  secret_ends_at BIGINT NULL,
  sign_in_works BOOLEAN NOT NULL DEFAULT FALSE,
  sign_in_says VARCHAR(255) NOT NULL DEFAULT 'not tried yet',
  -- Wall times: when it was last tried, and when it last gave a good answer.
  tried_wall BIGINT NULL,
  answered_wall BIGINT NULL,
  -- How far its record of changes has been read.
  feed_place VARCHAR(40) NOT NULL DEFAULT '0',
  -- And its record of who comes and goes; null: everyone who is in is to be read.
  session_place VARCHAR(40) NULL,
  -- What it asks, as it told when it was last read: what of it is in force, a lead says.
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
  -- Gone: it was told before, and is no more.
  state ENUM('up','lost','gone') NOT NULL,
  PRIMARY KEY (site_code, id),
  FOREIGN KEY (site_code) REFERENCES site (code)
);

-- What was otherwise at a reading than at the one before, until someone has noted it.
CREATE TABLE ground_change (
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind VARCHAR(16) NOT NULL,
  subject VARCHAR(80) NOT NULL,
  before_text VARCHAR(120) NOT NULL,
  after_text VARCHAR(120) NOT NULL,
  at BIGINT NOT NULL,
  noted_by VARCHAR(120) NULL,
  KEY (noted_by, at),
  FOREIGN KEY (site_code) REFERENCES site (code)
);

-- What a provider's things cost us, in force by a lead's word from a date.
CREATE TABLE provider_rate (
  provider_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  meter VARCHAR(32) NOT NULL,
  size VARCHAR(16) NOT NULL DEFAULT '',
  unit VARCHAR(8) NOT NULL,
  price DECIMAL(12,6) NOT NULL,
  currency CHAR(3) NOT NULL,
  from_at BIGINT NOT NULL,
  to_at BIGINT NULL,
  PRIMARY KEY (provider_code, meter, size, from_at),
  FOREIGN KEY (provider_code) REFERENCES provider (code)
);

CREATE TABLE address_range (
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  cidr VARCHAR(18) NOT NULL,
  -- Closed: nothing more is given of it.
  closed BOOLEAN NOT NULL DEFAULT FALSE,
  PRIMARY KEY (site_code, cidr),
  FOREIGN KEY (site_code) REFERENCES site (code)
);

-- Addresses that are in use elsewhere, in a network that ours are or may be joined with: nothing is given of them.
CREATE TABLE kept_clear (
  cidr VARCHAR(18) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  name VARCHAR(80) NOT NULL
);
