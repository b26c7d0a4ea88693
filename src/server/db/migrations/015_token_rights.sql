-- What a token was made for, by commas; null: everything that its operator may.
ALTER TABLE api_token
  ADD COLUMN rights VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin NULL;
