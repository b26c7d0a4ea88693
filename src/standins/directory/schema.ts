export const DIRECTORY_TABLES = [
  `CREATE TABLE IF NOT EXISTS computer (
    realm VARCHAR(80) NOT NULL, name VARCHAR(15) NOT NULL COLLATE utf8mb4_general_ci, PRIMARY KEY (realm, name))`,
  `CREATE TABLE IF NOT EXISTS reader (realm VARCHAR(80) PRIMARY KEY, token VARCHAR(200) NOT NULL)`,
  `CREATE TABLE IF NOT EXISTS entry (
    realm VARCHAR(80) NOT NULL, kind ENUM('User','Group') NOT NULL, id VARCHAR(64) NOT NULL,
    seq BIGINT AUTO_INCREMENT UNIQUE, name VARCHAR(200) NOT NULL COLLATE utf8mb4_general_ci, resource JSON NOT NULL,
    created BIGINT NOT NULL, modified BIGINT NOT NULL, version INT NOT NULL DEFAULT 1,
    PRIMARY KEY (realm, kind, id), KEY in_order (realm, kind, seq), KEY changed (realm, kind, modified),
    KEY named (realm, kind, name))`,
];
