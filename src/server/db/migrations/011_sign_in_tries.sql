-- Tries to sign in, as the rate limiter counts them. It made the table itself until now; whoever serves makes none any more.
CREATE TABLE IF NOT EXISTS sign_in_tries (
  `key` VARCHAR(255) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL PRIMARY KEY,
  points INT NOT NULL DEFAULT 0,
  expire BIGINT UNSIGNED NULL
);
ALTER TABLE sign_in_tries MODIFY `key` VARCHAR(255) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL;
