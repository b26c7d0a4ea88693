CREATE TABLE plan (
  code VARCHAR(16) PRIMARY KEY,
  name VARCHAR(80) NOT NULL
);

-- What a plan says, in versions: who is on one stays on it until they are moved.
CREATE TABLE plan_version (
  plan_code VARCHAR(16) NOT NULL,
  version INT NOT NULL,
  from_at BIGINT NOT NULL,
  terms JSON NOT NULL,
  note VARCHAR(200) NOT NULL,
  PRIMARY KEY (plan_code, version),
  FOREIGN KEY (plan_code) REFERENCES plan (code)
);

CREATE TABLE rate_card (
  code VARCHAR(16) PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  currency CHAR(3) NOT NULL
);

-- Meters are told by the kinds of resource: a new one needs no change here.
CREATE TABLE rate (
  card_code VARCHAR(16) NOT NULL,
  meter VARCHAR(32) NOT NULL,
  size VARCHAR(16) NOT NULL DEFAULT '',
  unit ENUM('hour','month') NOT NULL,
  price DECIMAL(12,6) NOT NULL,
  from_at BIGINT NOT NULL,
  to_at BIGINT NULL,
  PRIMARY KEY (card_code, meter, size, from_at),
  FOREIGN KEY (card_code) REFERENCES rate_card (code)
);
