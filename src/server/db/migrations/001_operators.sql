CREATE TABLE operator (
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  -- Exactly as it is: addresses that differ by an accent are two.
  mail VARCHAR(254) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL UNIQUE,
  role ENUM('engineer','lead','bookkeeper','auditor') NOT NULL,
  reach ENUM('every','listed') NOT NULL,
  password_hash VARCHAR(255) NOT NULL,
  -- From then on they may not sign in any more; wall time, as the others of this file.
  ends_at BIGINT NULL,
  last_seen_at BIGINT NULL,
  -- The secret of their codes (RFC 6238), and one that is being set up; sealed.
  factor_sealed VARBINARY(255) NULL,
  factor_new_sealed VARBINARY(255) NULL,
  -- The last code's time step: none is taken twice.
  factor_step BIGINT NOT NULL DEFAULT 0,
  -- Whoever comes from an identity service: which, and what it calls them.
  issuer VARCHAR(200) CHARACTER SET ascii COLLATE ascii_bin NULL,
  subject VARCHAR(255) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL,
  UNIQUE (issuer, subject)
);

-- Codes for when the second factor is lost; each is taken once.
CREATE TABLE recovery_code (
  operator_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  code_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (operator_id, code_hash),
  FOREIGN KEY (operator_id) REFERENCES operator (id) ON DELETE CASCADE
);

-- Who was invited and has not chosen a password yet.
CREATE TABLE invite (
  token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  operator_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  expires_at BIGINT NOT NULL,
  FOREIGN KEY (operator_id) REFERENCES operator (id) ON DELETE CASCADE
);

-- What somebody chose of a list often enough to keep it under a name.
CREATE TABLE saved_view (
  operator_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  page VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(60) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  query VARCHAR(4000) NOT NULL,
  PRIMARY KEY (operator_id, page, name),
  FOREIGN KEY (operator_id) REFERENCES operator (id) ON DELETE CASCADE
);

-- What a group of the identity service gives whoever is in it; they are asked in order.
CREATE TABLE outside_group (
  name VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin PRIMARY KEY,
  place INT NOT NULL,
  role ENUM('engineer','lead','bookkeeper','auditor') NOT NULL,
  reach ENUM('every','listed') NOT NULL
);

-- What the MSP has decided for everyone.
CREATE TABLE setting (
  name VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  value VARCHAR(4000) NOT NULL
);

-- Times in this file's tables are the wall's: signing in does not follow the demo clock.
CREATE TABLE web_session (
  token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  operator_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  created_at BIGINT NOT NULL,
  expires_at BIGINT NOT NULL,
  -- Whether the second factor was given too.
  with_factor BOOLEAN NOT NULL DEFAULT FALSE,
  KEY (operator_id),
  FOREIGN KEY (operator_id) REFERENCES operator (id) ON DELETE CASCADE
);

CREATE TABLE api_token (
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  operator_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(80) NOT NULL,
  token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
  created_at BIGINT NOT NULL,
  expires_at BIGINT NOT NULL,
  last_used_at BIGINT NULL,
  FOREIGN KEY (operator_id) REFERENCES operator (id) ON DELETE CASCADE
);

-- What a write made, kept in the transaction that made it: sent again with its key, it is answered from this. Sealed,
-- because an answer may hold a secret that is shown once.
CREATE TABLE idempotency (
  operator_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  idempotency_key VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  request_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  made MEDIUMBLOB NOT NULL,
  created_at BIGINT NOT NULL,
  PRIMARY KEY (operator_id, idempotency_key),
  KEY (created_at)
);
