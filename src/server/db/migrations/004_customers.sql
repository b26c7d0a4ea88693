CREATE TABLE customer (
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  -- The MSP is a tenant of its own: what belongs to no customer belongs to it.
  kind ENUM('customer','msp') NOT NULL DEFAULT 'customer',
  code VARCHAR(16) NOT NULL UNIQUE,
  name VARCHAR(120) NOT NULL,
  state ENUM('active','trial','paused','leaving','retired') NOT NULL,
  home_site VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NULL,
  zone VARCHAR(64) NOT NULL,
  currency CHAR(3) NOT NULL,
  card_code VARCHAR(16) NULL,
  -- Contacts, working calendar, tags, naming rule, name servers: what the contract says of a customer's details.
  details JSON NOT NULL DEFAULT '{}',
  realm VARCHAR(80) NOT NULL,
  -- The name that their people sign in at is nobody else's.
  gateway_name VARCHAR(253) CHARACTER SET ascii COLLATE ascii_bin
    AS (IF(state = 'retired', NULL, NULLIF(JSON_VALUE(details, '$.gatewayName'), ''))) STORED UNIQUE,
  -- What they were before a pause, and are again after it.
  paused_from VARCHAR(16) NULL,
  -- When they were gone: what they pay for their plan ends then.
  retired_at BIGINT NULL,
  -- When their people and details were deleted, after they had been kept as long as was promised.
  data_deleted_at BIGINT NULL,
  mark_hue SMALLINT NOT NULL,
  mark_shape TINYINT NOT NULL,
  mark_pattern TINYINT NOT NULL,
  -- Grows with every change of who their people are and which groups those are in.
  people_version BIGINT NOT NULL DEFAULT 0,
  lock_no BIGINT NOT NULL DEFAULT 0,
  FOREIGN KEY (home_site) REFERENCES site (code),
  FOREIGN KEY (card_code) REFERENCES rate_card (code),
  CHECK (kind = 'msp' OR (home_site IS NOT NULL AND card_code IS NOT NULL))
);

INSERT INTO customer (id, kind, code, name, state, zone, currency, realm, mark_hue, mark_shape, mark_pattern)
  VALUES ('00000000000000000000000000', 'msp', 'MSP', 'The MSP itself', 'active', 'UTC', 'EUR', '', 158, 0, 1);

CREATE TABLE operator_customer (
  operator_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (operator_id, customer_id),
  FOREIGN KEY (operator_id) REFERENCES operator (id) ON DELETE CASCADE,
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

CREATE TABLE outside_group_customer (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  group_name VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (customer_id, group_name),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (group_name) REFERENCES outside_group (name)
);

-- Customers half filled in: nobody's yet, and so the MSP's.
CREATE TABLE customer_draft (
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  by_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  by_name VARCHAR(80) NOT NULL,
  at BIGINT NOT NULL,
  fields JSON NOT NULL
);

-- Every table below is a customer's: its rows refer to each other by customer_id and id together.

-- From when on a customer is on a version of a plan; before the first of them it is on that.
CREATE TABLE customer_plan (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  from_at BIGINT NOT NULL,
  plan_code VARCHAR(16) NOT NULL,
  version INT NOT NULL,
  PRIMARY KEY (customer_id, from_at),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (plan_code, version) REFERENCES plan_version (plan_code, version)
);

-- A limit of its plan that a lead raised for a customer, until an instant.
CREATE TABLE allowance (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  limit_name ENUM('people','hosts','vcpu','memoryGiB','storageGiB','personal') NOT NULL,
  most INT NOT NULL,
  until_at BIGINT NOT NULL,
  reason VARCHAR(250) NOT NULL,
  actor VARCHAR(120) NOT NULL,
  made_at BIGINT NOT NULL,
  PRIMARY KEY (customer_id, id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- How a customer's directory is read, which part of it is theirs here, and how far it has been read.
CREATE TABLE directory_link (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  secret_sealed VARBINARY(2048) NOT NULL,
  -- How it is read; over LDAP: where it is, below which entry, and as whom.
  via ENUM('scim','ldap','push') NOT NULL DEFAULT 'scim',
  address VARCHAR(300) NOT NULL DEFAULT '',
  base_dn VARCHAR(400) NOT NULL DEFAULT '',
  bind_as VARCHAR(400) NOT NULL DEFAULT '',
  units JSON NOT NULL,
  groups_in JSON NOT NULL,
  -- `asked`: somebody wants it read now. `stopped`: it was read, and somebody has to look first.
  state ENUM('linked','asked','reading','taking','stopped') NOT NULL DEFAULT 'linked',
  says VARCHAR(400) NOT NULL DEFAULT '',
  -- SHA-256 over those whose leaving was stopped at, and over those whose leaving was agreed to.
  leaving CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL,
  agreed CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL,
  -- When it was last read to its end, and who came then; null: it has never been taken in.
  read_at BIGINT NULL,
  people INT NULL,
  -- When a reading last changed who is here, or their groups.
  moved_at BIGINT NULL,
  -- Who could not be taken in, by their ids in it: who, and why.
  unfit JSON NOT NULL DEFAULT '{}',
  -- Only what has changed in it since then is asked for; null: all of it is read.
  since VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NULL,
  total_people INT NOT NULL DEFAULT 0,
  total_groups INT NOT NULL DEFAULT 0,
  whole_wall BIGINT NOT NULL DEFAULT 0,
  due_wall BIGINT NOT NULL DEFAULT 0,
  -- Grows with each reading and each change of the link: an earlier reading writes nothing more.
  round INT NOT NULL DEFAULT 0,
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- What a customer's directory has pushed to us, as it came.
CREATE TABLE pushed_entry (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind ENUM('User','Group') CHARACTER SET ascii NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(250) NOT NULL,
  body JSON NOT NULL,
  version INT NOT NULL DEFAULT 1,
  created_wall BIGINT NOT NULL,
  changed_wall BIGINT NOT NULL,
  PRIMARY KEY (customer_id, kind, id),
  KEY by_name (customer_id, kind, name),
  KEY by_change (customer_id, kind, changed_wall),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- What of a directory has been read and is not taken in yet, as it came: reading goes on after the last of them.
CREATE TABLE directory_page (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  part ENUM('people','groups') NOT NULL,
  page INT NOT NULL,
  total INT NOT NULL,
  -- Ours, and the directory's own clock when it gave it.
  read_wall BIGINT NOT NULL,
  directory_at BIGINT NULL,
  entries JSON NOT NULL,
  PRIMARY KEY (customer_id, part, page),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- Certificates with their keys, for where a customer's people sign in: the newest is to be served.
CREATE TABLE certificate (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  -- SHA-256 over its bytes.
  fingerprint CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  subject VARCHAR(120) NOT NULL,
  issuer VARCHAR(120) NOT NULL,
  names JSON NOT NULL,
  from_at BIGINT NOT NULL,
  until_at BIGINT NOT NULL,
  chain MEDIUMTEXT NOT NULL,
  key_sealed BLOB NOT NULL,
  kept_at BIGINT NOT NULL,
  actor VARCHAR(120) NOT NULL,
  PRIMARY KEY (customer_id, id),
  UNIQUE (customer_id, fingerprint),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- What recipes refer to by name: sealed, and told to nobody but the step that needs it.
CREATE TABLE recipe_secret (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  sealed BLOB NOT NULL,
  changed_by VARCHAR(80) NOT NULL,
  changed_at BIGINT NOT NULL,
  PRIMARY KEY (customer_id, name),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- Steps that recipes use by name: the MSP's for everyone's images, a customer's for their own.
CREATE TABLE saved_steps (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  text TEXT NOT NULL,
  changed_by VARCHAR(80) NOT NULL,
  changed_at BIGINT NOT NULL,
  PRIMARY KEY (customer_id, name),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

CREATE TABLE address_block (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  cidr VARCHAR(18) NOT NULL,
  returned_at BIGINT NULL,
  PRIMARY KEY (customer_id, id),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (site_code) REFERENCES site (code)
);

-- Somebody who left keeps their row, so that they are the same person when they come back.
CREATE TABLE person (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  account VARCHAR(64) NOT NULL,
  given VARCHAR(80) NOT NULL,
  family VARCHAR(80) NOT NULL,
  mail VARCHAR(254) NOT NULL,
  -- The directory's own name for them; null: they came from a file.
  directory_id VARCHAR(250) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL,
  unit VARCHAR(250) NOT NULL DEFAULT '',
  left_at BIGINT NULL,
  -- Their account before the one they have; what stands under it moves along.
  former VARCHAR(64) NULL,
  -- What happened to them that what is theirs has yet to follow; null: nothing.
  follows ENUM('leave','return','rename') NULL,
  -- An account is one person's at a time, and free again when they have left.
  held_account VARCHAR(64) AS (IF(left_at IS NULL, account, NULL)) STORED,
  -- All of it as it is looked for, compared byte by byte.
  find_text VARBINARY(1400) NOT NULL,
  PRIMARY KEY (customer_id, id),
  UNIQUE (customer_id, held_account),
  UNIQUE (customer_id, directory_id),
  KEY findable (find_text, customer_id),
  KEY gone (left_at),
  KEY to_follow (follows),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- Ways in that were asked for, to be mailed; whether anybody has the address is not looked at before.
CREATE TABLE desk_ask (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  mail VARCHAR(254) NOT NULL,
  until_wall BIGINT NOT NULL,
  -- What could not be mailed rests until then, and lets the others go first.
  due_wall BIGINT NOT NULL DEFAULT 0,
  PRIMARY KEY (customer_id, id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- Ways in that were sent by mail to people: each is good once.
CREATE TABLE desk_link (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
  person_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  until_wall BIGINT NOT NULL,
  PRIMARY KEY (customer_id, token_hash),
  KEY of_person (customer_id, person_id),
  FOREIGN KEY (customer_id, person_id) REFERENCES person (customer_id, id) ON DELETE CASCADE
);

-- People who are signed in at their desk.
CREATE TABLE desk_session (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
  person_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  until_wall BIGINT NOT NULL,
  PRIMARY KEY (customer_id, token_hash),
  KEY of_person (customer_id, person_id),
  FOREIGN KEY (customer_id, person_id) REFERENCES person (customer_id, id) ON DELETE CASCADE
);

-- The groups of a customer's directory. Of those outside the scope is known that they are there, and not who is in them.
CREATE TABLE directory_group (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  directory_id VARCHAR(250) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  name VARCHAR(200) NOT NULL,
  unit VARCHAR(250) NOT NULL,
  in_scope BOOLEAN NOT NULL,
  PRIMARY KEY (customer_id, id),
  UNIQUE (customer_id, directory_id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- Who is in a group directly, by the directory's own name: people and groups, known here or not.
CREATE TABLE group_member (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  group_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  member VARCHAR(250) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  is_group BOOLEAN NOT NULL,
  PRIMARY KEY (customer_id, group_id, member),
  KEY of_member (customer_id, member),
  KEY groups_in_groups (customer_id, is_group, member),
  FOREIGN KEY (customer_id, group_id) REFERENCES directory_group (customer_id, id) ON DELETE CASCADE
);
