-- What a resource takes of a quota beside that of vCPU, from when it is wanted until it is given back.
CREATE TABLE quota_claim (
  customer_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  resource_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  quota VARCHAR(64) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  site_code VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  amount INT UNSIGNED NOT NULL,
  PRIMARY KEY (customer_id, resource_id, quota),
  KEY at_site (site_code, quota),
  FOREIGN KEY (customer_id, resource_id) REFERENCES resource (customer_id, id),
  FOREIGN KEY (site_code) REFERENCES site (code)
);
