-- A template is the MSP's, for everyone, or one customer's own. Its draft is kept as it was typed, whole or not.
CREATE TABLE template (
  code VARCHAR(32) PRIMARY KEY,
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(80) NOT NULL,
  says VARCHAR(255) NOT NULL,
  draft MEDIUMTEXT NULL,
  draft_version INT NOT NULL DEFAULT 0,
  draft_by VARCHAR(80) NOT NULL DEFAULT '',
  draft_at BIGINT NULL,
  UNIQUE (customer_id, code),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- What was published: as it was written, and as it is read.
CREATE TABLE template_revision (
  template_code VARCHAR(32) NOT NULL,
  revision INT NOT NULL,
  text MEDIUMTEXT NOT NULL,
  document JSON NOT NULL,
  note VARCHAR(255) NOT NULL,
  created_by VARCHAR(80) NOT NULL,
  created_at BIGINT NOT NULL,
  PRIMARY KEY (template_code, revision),
  FOREIGN KEY (template_code) REFERENCES template (code)
);

-- Wanted: what should be. An environment's document is kept in versions; its resources derive from it.
CREATE TABLE environment (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(24) NOT NULL,
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  -- The MSP's own are from none.
  template_code VARCHAR(32) NULL,
  revision INT NULL,
  -- Whose template that is: the customer's own or the MSP's, and no other customer's.
  template_owner CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  wanted ENUM('serving','retired') NOT NULL,
  -- What its intent is of: an image is built and kept like any environment, and has no desktops.
  holds ENUM('desktops','image','shelf','services') NOT NULL DEFAULT 'desktops',
  people INT NOT NULL,
  -- The version of its intent.
  version INT NOT NULL DEFAULT 1,
  created_at BIGINT NOT NULL,
  retired_at BIGINT NULL,
  -- A name is free again once its environment is retired.
  held_name VARCHAR(24) AS (IF(retired_at IS NULL, name, NULL)) STORED,
  -- Hosts and sites name an image by its code alone: it is one image's, whosesoever.
  image_code VARCHAR(24) AS (IF(holds = 'image' AND retired_at IS NULL, name, NULL)) STORED,
  lock_no BIGINT NOT NULL DEFAULT 0,
  PRIMARY KEY (customer_id, id),
  UNIQUE (customer_id, held_name),
  UNIQUE (image_code),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (site_code) REFERENCES site (code),
  FOREIGN KEY (template_code, revision) REFERENCES template_revision (template_code, revision),
  FOREIGN KEY (template_owner, template_code) REFERENCES template (customer_id, code),
  CHECK (template_code IS NULL OR template_owner IN (customer_id, '00000000000000000000000000'))
);

CREATE TABLE intent (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  version INT NOT NULL,
  document JSON NOT NULL,
  created_at BIGINT NOT NULL,
  PRIMARY KEY (customer_id, environment_id, version),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id)
);

-- A resource that is or was wanted, with what was allocated to it. Without an environment: it is the customer's at a
-- site. `round` grows when the provider itself says that making it failed, or that it is gone: then it is made anew.
CREATE TABLE resource (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  resource_key VARCHAR(160) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(80) NOT NULL,
  attributes JSON NOT NULL,
  needs JSON NOT NULL,
  wanted BOOLEAN NOT NULL,
  version INT NOT NULL DEFAULT 1,
  round INT NOT NULL DEFAULT 0,
  provider_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NULL,
  ref VARCHAR(128) CHARACTER SET ascii COLLATE ascii_bin NULL,
  -- What it takes of a node or a quota.
  node VARCHAR(32) NULL,
  vcpu INT NOT NULL DEFAULT 0,
  memory_gib INT NOT NULL DEFAULT 0,
  disk_gib INT NOT NULL DEFAULT 0,
  created_at BIGINT NOT NULL,
  returned_at BIGINT NULL,
  -- The MSP's resource that it joins its customer to: no other customer's can be.
  joins_customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  joins_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  -- Its environment, or empty; and its key as long as it is held: unique together.
  holder CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  held_key VARCHAR(160) CHARACTER SET ascii COLLATE ascii_bin
    AS (IF(returned_at IS NULL, resource_key, NULL)) STORED,
  -- Its name and address as they are looked for.
  find_text VARBINARY(400) AS (CAST(LOWER(CONCAT(name, ' ', IFNULL(JSON_VALUE(attributes, '$.address'), ''))) AS BINARY)) STORED,
  -- What a host is made of.
  image VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin AS (IF(kind = 'host', JSON_VALUE(attributes, '$.image'), NULL)) STORED,
  lock_no BIGINT NOT NULL DEFAULT 0,
  PRIMARY KEY (customer_id, id),
  KEY of_image (image, returned_at),
  KEY findable (kind, returned_at, find_text),
  KEY held (customer_id, id, returned_at, wanted),
  UNIQUE (customer_id, holder, held_key),
  UNIQUE (provider_code, ref),
  KEY of_environment (customer_id, environment_id, kind),
  KEY how_full (site_code, returned_at, node),
  FOREIGN KEY (joins_customer_id, joins_id) REFERENCES resource (customer_id, id),
  CHECK (joins_customer_id = '00000000000000000000000000'),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id),
  FOREIGN KEY (site_code) REFERENCES site (code)
);

-- Hosts that a pause switched off: those that were off before stay so when the customer is started again.
CREATE TABLE paused_host (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  resource_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (customer_id, resource_id),
  FOREIGN KEY (customer_id, resource_id) REFERENCES resource (customer_id, id)
);

-- What must be unique: computer names in a directory, addresses, subnets. Giving back is deleting the row.
CREATE TABLE allocation (
  space VARCHAR(100) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  value VARCHAR(128) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  resource_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (space, value),
  UNIQUE (customer_id, resource_id, space, value),
  FOREIGN KEY (customer_id, resource_id) REFERENCES resource (customer_id, id)
);

-- Present: what a provider said when it was last read, by its own name for it. What matches nothing we know is the MSP's.
CREATE TABLE present_resource (
  provider_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  ref VARCHAR(128) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  -- Which resource of ours it says it is.
  resource_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  kind VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(120) NOT NULL,
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  present_condition ENUM('building','well','unwell','gone') NOT NULL,
  attributes JSON NOT NULL,
  provider_version BIGINT NOT NULL,
  made_at BIGINT NOT NULL,
  changed_at BIGINT NOT NULL,
  gone_at BIGINT NULL,
  size VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin AS (JSON_VALUE(attributes, '$.size')) STORED,
  node VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin AS (JSON_VALUE(attributes, '$.node')) STORED,
  -- Of a host: on, where nothing is said of it.
  power VARCHAR(8) CHARACTER SET ascii COLLATE ascii_bin AS (COALESCE(JSON_VALUE(attributes, '$.power'), 'on')) STORED,
  PRIMARY KEY (provider_code, ref),
  UNIQUE (customer_id, provider_code, ref),
  KEY of_resource (customer_id, resource_id, gone_at, present_condition),
  KEY of_environment (customer_id, environment_id),
  KEY how_full (kind, site_code, node, size, present_condition),
  KEY running (provider_code, kind, power, present_condition, changed_at),
  FOREIGN KEY (provider_code) REFERENCES provider (code),
  -- By itself too: a key of two columns is not checked while one of them is empty.
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id),
  FOREIGN KEY (customer_id, resource_id) REFERENCES resource (customer_id, id)
);

CREATE TABLE session (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  provider_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  host_ref VARCHAR(128) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  account VARCHAR(80) NOT NULL,
  state ENUM('active','idle') NOT NULL,
  since BIGINT NOT NULL,
  -- Since when it is active or idle, as it was read.
  state_since BIGINT NOT NULL DEFAULT 0,
  -- Since when it is idle, for finding those that are so for long.
  idle_since BIGINT AS (IF(state = 'idle', GREATEST(since, state_since), NULL)) STORED,
  -- Who and where as they are looked for: a copy, so that finding reads one index only.
  find_text VARBINARY(1600) NOT NULL DEFAULT '',
  PRIMARY KEY (customer_id, provider_code, id),
  -- A provider that gives an id again, to whomever, speaks of another session: the one before is over.
  UNIQUE KEY of_provider (provider_code, id),
  KEY of_host (customer_id, provider_code, host_ref),
  KEY of_account (customer_id, account),
  KEY idle (idle_since),
  KEY newest (since, id, find_text),
  KEY newest_of_customer (customer_id, since, id, find_text),
  FOREIGN KEY (customer_id, provider_code, host_ref) REFERENCES present_resource (customer_id, provider_code, ref)
);

-- Sessions that are over, for as long as it is asked where somebody was.
CREATE TABLE session_past (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  provider_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  since BIGINT NOT NULL,
  ended_at BIGINT NOT NULL,
  host_ref VARCHAR(128) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  host VARCHAR(120) NOT NULL,
  account VARCHAR(80) NOT NULL,
  PRIMARY KEY (customer_id, provider_code, id, since),
  KEY of_account (customer_id, account, ended_at),
  KEY of_host (provider_code, host_ref, ended_at),
  KEY oldest (ended_at),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- By what a host shows that it is unwell; open until it shows it no more.
CREATE TABLE sign (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  resource_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  provider_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  ref VARCHAR(128) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  node VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin NULL,
  kind ENUM('silent','refusing','clock','memory','load','sign-in','disk','agent') NOT NULL,
  harm ENUM('out','slow','soon') NOT NULL,
  -- Nobody is placed on the host.
  closes BOOLEAN NOT NULL,
  says VARCHAR(160) NOT NULL,
  people INT NOT NULL,
  since BIGINT NOT NULL,
  ended_at BIGINT NULL,
  open_kind VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin AS (IF(ended_at IS NULL, kind, NULL)) STORED,
  PRIMARY KEY (customer_id, id),
  UNIQUE KEY one_open (customer_id, resource_id, open_kind),
  KEY open_at (provider_code, ended_at),
  KEY of_host (customer_id, resource_id, ended_at),
  KEY oldest (ended_at),
  FOREIGN KEY (customer_id, resource_id) REFERENCES resource (customer_id, id),
  FOREIGN KEY (provider_code) REFERENCES provider (code)
);

-- What somebody has said of a line of what needs a look: that they are on it, or that it can wait. What is no one
-- customer's is the MSP's own.
CREATE TABLE look_mark (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  look_key VARCHAR(160) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  state ENUM('taken','put off') NOT NULL,
  operator_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  at BIGINT NOT NULL,
  until_at BIGINT NOT NULL,
  reason VARCHAR(200) NOT NULL,
  PRIMARY KEY (customer_id, look_key),
  KEY oldest (until_at),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (operator_id) REFERENCES operator (id)
);

-- Where the MSP has it told what needs a look, and what that is signed with.
CREATE TABLE notice_target (
  id TINYINT PRIMARY KEY CHECK (id = 1),
  address VARCHAR(300) NOT NULL,
  secret_sealed VARBINARY(400) NOT NULL,
  sent_at BIGINT NULL,
  trouble VARCHAR(255) NOT NULL DEFAULT ''
);

-- What was told outside to need a look, until it does no more.
CREATE TABLE notice_look (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  look_key VARCHAR(160) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  body JSON NOT NULL,
  PRIMARY KEY (customer_id, look_key),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- What is to be told outside, in order; gone once it was taken.
CREATE TABLE notice (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  event JSON NOT NULL,
  due_wall BIGINT NOT NULL,
  tries INT NOT NULL DEFAULT 0,
  PRIMARY KEY (customer_id, id),
  KEY (id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- Who has a licence seat of what a pool publishes: given to whom it is granted, and given back when it is no more.
CREATE TABLE licence_seat (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  resource_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  person_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  given_at BIGINT NOT NULL,
  PRIMARY KEY (customer_id, resource_id, person_id),
  KEY of_person (customer_id, person_id),
  FOREIGN KEY (customer_id, resource_id) REFERENCES resource (customer_id, id),
  FOREIGN KEY (customer_id, person_id) REFERENCES person (customer_id, id) ON DELETE CASCADE
);

-- By which people, and until when, the seats of a publication were given; and whom the provider was told.
CREATE TABLE publication_reach (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  resource_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  people_version BIGINT NOT NULL,
  intent_version INT NOT NULL,
  -- When the next of its grants ends; null: none does.
  due_at BIGINT NULL,
  -- SHA-256 over the accounts.
  told CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (customer_id, resource_id),
  KEY (due_at),
  FOREIGN KEY (customer_id, resource_id) REFERENCES resource (customer_id, id)
);

-- What somebody starts most: it stands first on their desk.
CREATE TABLE desk_favourite (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  person_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  pool VARCHAR(24) NOT NULL,
  item VARCHAR(80) NOT NULL,
  PRIMARY KEY (customer_id, person_id),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id),
  FOREIGN KEY (customer_id, person_id) REFERENCES person (customer_id, id) ON DELETE CASCADE
);

-- Where a customer's people sign in to their desk with their own identity service (OpenID Connect).
CREATE TABLE desk_identity (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  name VARCHAR(60) NOT NULL,
  issuer VARCHAR(300) NOT NULL,
  client VARCHAR(200) NOT NULL,
  secret_sealed VARBINARY(2048) NOT NULL,
  -- Which of what it says is compared with which of ours.
  known_by ENUM('mail','account') NOT NULL,
  -- No ways in are mailed to its people.
  only_there BOOLEAN NOT NULL,
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- What a customer lets all its people do at their desks, whatever a pool or an item says; no row: as usual.
CREATE TABLE desk_rule (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  crosses JSON NOT NULL,
  screen ENUM('as the window','every screen','1280 × 800','1600 × 900','1920 × 1080') NOT NULL,
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- What stands on people's desks until then; without a person: on all of the customer's.
CREATE TABLE desk_message (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  person_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  text VARCHAR(300) NOT NULL,
  said_by VARCHAR(120) NOT NULL,
  at BIGINT NOT NULL,
  until_at BIGINT NOT NULL,
  PRIMARY KEY (customer_id, id),
  KEY oldest (until_at),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (customer_id, person_id) REFERENCES person (customer_id, id) ON DELETE CASCADE
);

-- What is to be done with a session, and when; done once, whoever does it.
CREATE TABLE session_act (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  provider_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  session_id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  account VARCHAR(80) NOT NULL,
  host VARCHAR(120) NOT NULL,
  act ENUM('message','disconnect','sign-out','end-program') NOT NULL,
  text VARCHAR(600) NOT NULL,
  due_at BIGINT NOT NULL,
  state ENUM('waiting','done','failed') NOT NULL DEFAULT 'waiting',
  says VARCHAR(255) NOT NULL DEFAULT '',
  actor VARCHAR(120) NOT NULL,
  PRIMARY KEY (customer_id, id),
  KEY due (state, due_at),
  KEY of_session (customer_id, provider_code, session_id),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (provider_code) REFERENCES provider (code)
);

-- What the MSP says to people again and again.
CREATE TABLE message_text (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  text VARCHAR(300) NOT NULL,
  made_by VARCHAR(120) NOT NULL,
  made_at BIGINT NOT NULL,
  PRIMARY KEY (customer_id, id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);

-- Who asked to look along with a session, and what came of it; times by the wall clock.
CREATE TABLE look_along (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  provider_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  session_id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  account VARCHAR(80) NOT NULL,
  operator_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  state ENUM('asked','looking','refused','unanswered','over') NOT NULL,
  asked_wall BIGINT NOT NULL,
  since_wall BIGINT NULL,
  PRIMARY KEY (customer_id, id),
  KEY of_session (customer_id, provider_code, session_id),
  KEY oldest (asked_wall),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (provider_code) REFERENCES provider (code)
);

-- Somebody who is on the way to a host: a seat is kept for them until their session is read there.
CREATE TABLE arrival (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  pool_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  account VARCHAR(64) NOT NULL,
  host_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  until_wall BIGINT NOT NULL,
  PRIMARY KEY (customer_id, pool_id, account),
  KEY of_host (customer_id, host_id),
  FOREIGN KEY (customer_id, pool_id) REFERENCES resource (customer_id, id),
  FOREIGN KEY (customer_id, host_id) REFERENCES resource (customer_id, id)
);

-- The most that were in at once in an hour, by pool: what sizing goes by.
CREATE TABLE session_peak (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  pool VARCHAR(24) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  hour_at BIGINT NOT NULL,
  most INT NOT NULL,
  PRIMARY KEY (customer_id, environment_id, pool, hour_at),
  KEY (hour_at),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id)
);

-- What one person of a kind of work takes at a customer, where it is otherwise than usual, and where the figures come from.
CREATE TABLE profile_need (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  profile VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  people_per_vcpu DECIMAL(6,2) NOT NULL,
  memory_gib DECIMAL(6,2) NOT NULL,
  disk_operations DECIMAL(8,2) NOT NULL,
  graphics_gib DECIMAL(6,2) NOT NULL,
  source VARCHAR(200) NOT NULL,
  PRIMARY KEY (customer_id, profile),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);
