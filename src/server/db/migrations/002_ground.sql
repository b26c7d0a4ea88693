CREATE TABLE provider (
  code VARCHAR(16) PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  url VARCHAR(255) NOT NULL,
  account VARCHAR(80) NOT NULL,
  secret_sealed VARBINARY(512) NOT NULL,
  sign_in_works BOOLEAN NOT NULL DEFAULT FALSE,
  sign_in_says VARCHAR(255) NOT NULL DEFAULT 'not tried yet',
  tried_at BIGINT NULL
);

CREATE TABLE site (
  code VARCHAR(16) PRIMARY KEY,
  provider_code VARCHAR(16) NOT NULL,
  name VARCHAR(80) NOT NULL,
  kind ENUM('own nodes','hosted region') NOT NULL,
  reserved_addresses INT NOT NULL,
  images JSON NOT NULL,
  sizes JSON NOT NULL,
  quota JSON NULL,
  read_at BIGINT NOT NULL,
  FOREIGN KEY (provider_code) REFERENCES provider (code)
);

CREATE TABLE node (
  site_code VARCHAR(16) NOT NULL,
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
  site_code VARCHAR(16) NOT NULL,
  cidr VARCHAR(18) NOT NULL,
  PRIMARY KEY (site_code, cidr),
  FOREIGN KEY (site_code) REFERENCES site (code)
);

CREATE TABLE plan (
  code VARCHAR(16) PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  most_hosts INT NOT NULL,
  most_people INT NOT NULL,
  sizes JSON NOT NULL
);

CREATE TABLE rate_card (
  code VARCHAR(16) PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  currency CHAR(3) NOT NULL
);

CREATE TABLE rate (
  card_code VARCHAR(16) NOT NULL,
  meter ENUM('host','disk','share','licence') NOT NULL,
  size VARCHAR(16) NOT NULL DEFAULT '',
  unit ENUM('hour','month') NOT NULL,
  price DECIMAL(12,6) NOT NULL,
  from_at BIGINT NOT NULL,
  to_at BIGINT NULL,
  PRIMARY KEY (card_code, meter, size, from_at),
  FOREIGN KEY (card_code) REFERENCES rate_card (code)
);

CREATE TABLE template (
  code VARCHAR(32) PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  says VARCHAR(255) NOT NULL
);

CREATE TABLE template_revision (
  template_code VARCHAR(32) NOT NULL,
  revision INT NOT NULL,
  spec JSON NOT NULL,
  note VARCHAR(255) NOT NULL,
  created_at BIGINT NOT NULL,
  PRIMARY KEY (template_code, revision),
  FOREIGN KEY (template_code) REFERENCES template (code)
);
