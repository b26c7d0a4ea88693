-- A state that lasted: quantity is hosts, GiB or seats. Open while to_at is null. Instants are whole seconds, in ms.
CREATE TABLE meter_interval (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  id BIGINT NOT NULL AUTO_INCREMENT,
  environment_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL,
  -- The pool it belongs to, for the charge's line.
  pool VARCHAR(24) NOT NULL DEFAULT '',
  provider_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  ref VARCHAR(128) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  meter VARCHAR(32) NOT NULL,
  state ENUM('on','off') NOT NULL,
  size VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NULL,
  quantity INT NOT NULL,
  from_at BIGINT NOT NULL,
  to_at BIGINT NULL,
  PRIMARY KEY (customer_id, id),
  UNIQUE (id),
  KEY (provider_code, ref, to_at),
  -- What was used is summed from it alone, and of a month only what reaches into it.
  KEY used (customer_id, to_at, from_at, meter, state, size, quantity, pool, environment_id),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (customer_id, environment_id) REFERENCES environment (customer_id, id),
  FOREIGN KEY (customer_id, provider_code, ref) REFERENCES present_resource (customer_id, provider_code, ref)
);

-- A customer's figures kept ready, refreshed by the worker: a copy, never a source.
CREATE TABLE summary (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  taken_wall BIGINT NOT NULL,
  stale BOOLEAN NOT NULL,
  hosts INT NOT NULL,
  -- Those in its directory, and those of them who are in.
  people INT NOT NULL DEFAULT 0,
  people_in INT NOT NULL,
  seats INT NOT NULL,
  seats_free INT NOT NULL,
  -- The ring's arcs, and fewer of them for where many customers stand together.
  arcs JSON NOT NULL,
  few_arcs JSON NOT NULL DEFAULT '[]',
  attention JSON NOT NULL,
  cost_minor BIGINT NOT NULL,
  forecast_minor BIGINT NOT NULL,
  KEY (stale, taken_wall),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);
