import { CLOCK_TABLE } from '../kit/clock';

export const PROVIDER_TABLES: readonly string[] = [
  CLOCK_TABLE,
  `CREATE TABLE IF NOT EXISTS resource (
    id VARCHAR(128) PRIMARY KEY, kind VARCHAR(32) NOT NULL, site VARCHAR(16) NOT NULL, name VARCHAR(120) NOT NULL,
    state VARCHAR(16) NOT NULL, attrs JSON NOT NULL, tags JSON NOT NULL, version BIGINT NOT NULL DEFAULT 1,
    customer VARCHAR(16) AS (JSON_VALUE(tags, '$.customer')) STORED,
    created_at BIGINT NOT NULL, gone_at BIGINT NULL, KEY (kind, state), KEY (customer))`,
  `CREATE TABLE IF NOT EXISTS operation (
    id CHAR(12) PRIMARY KEY, idempotency_key VARCHAR(80) NULL UNIQUE, resource VARCHAR(128) NOT NULL,
    action VARCHAR(32) NOT NULL, parameters JSON NOT NULL, state VARCHAR(16) NOT NULL,
    says VARCHAR(255) NOT NULL, begun_at BIGINT NOT NULL, ready_at BIGINT NOT NULL, KEY (state, ready_at),
    KEY (resource, state))`,
  `CREATE TABLE IF NOT EXISTS feed (
    seq BIGINT AUTO_INCREMENT PRIMARY KEY, at BIGINT NOT NULL, resource VARCHAR(128) NOT NULL, seen JSON NOT NULL)`,
  `CREATE TABLE IF NOT EXISTS session (
    id CHAR(12) PRIMARY KEY, pool VARCHAR(128) NOT NULL, host VARCHAR(128) NOT NULL, account VARCHAR(80) NOT NULL,
    state VARCHAR(8) NOT NULL, since BIGINT NOT NULL, UNIQUE (pool, account), KEY (host))`,
  `CREATE TABLE IF NOT EXISTS message (
    host VARCHAR(128) NOT NULL, id VARCHAR(64) NOT NULL, text VARCHAR(255) NOT NULL, at BIGINT NOT NULL,
    PRIMARY KEY (host, id))`,
  `CREATE TABLE IF NOT EXISTS token (token CHAR(32) PRIMARY KEY, expires_wall BIGINT NOT NULL)`,
  `CREATE TABLE IF NOT EXISTS fault (
    id INT AUTO_INCREMENT PRIMARY KEY, kind VARCHAR(16) NOT NULL, target VARCHAR(80) NOT NULL, amount INT NOT NULL)`,
];
