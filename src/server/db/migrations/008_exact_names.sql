-- Every statement may be done again: a migration that was cut off begins anew.
-- Whatever names somebody or something is compared byte by byte, blanks at the end too. Names that are the same in any
-- case are written in lower case (core/text, identity) before they come here.
SET FOREIGN_KEY_CHECKS = 0;
ALTER TABLE outside_group_customer DROP FOREIGN KEY IF EXISTS outside_group_customer_ibfk_2;
ALTER TABLE rate DROP FOREIGN KEY IF EXISTS rate_ibfk_1;
ALTER TABLE customer DROP FOREIGN KEY IF EXISTS customer_ibfk_2;
ALTER TABLE plan_version DROP FOREIGN KEY IF EXISTS plan_version_ibfk_1;
ALTER TABLE customer_plan DROP FOREIGN KEY IF EXISTS customer_plan_ibfk_2;
ALTER TABLE template_revision DROP FOREIGN KEY IF EXISTS template_revision_ibfk_1;
ALTER TABLE environment DROP FOREIGN KEY IF EXISTS environment_ibfk_3, DROP FOREIGN KEY IF EXISTS environment_ibfk_4;

ALTER TABLE person
  MODIFY account VARCHAR(64) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  MODIFY mail VARCHAR(254) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  MODIFY former VARCHAR(64) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NULL,
  MODIFY directory_id VARCHAR(250) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NULL,
  MODIFY held_account VARCHAR(64) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin AS (IF(left_at IS NULL, account, NULL)) STORED;
-- One by one: an account that was freed for a moment is written with our id, in capitals.
UPDATE person SET account = IF(account LIKE '~%', account, LOWER(account)), mail = LOWER(mail), former = LOWER(former);
ALTER TABLE person
  ADD KEY IF NOT EXISTS by_mail (mail),
  ADD CONSTRAINT IF NOT EXISTS account_in_lower_case CHECK (account = LOWER(account) OR account LIKE '~%');
ALTER TABLE desk_ask MODIFY mail VARCHAR(254) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
-- By which ask a link was sent: asked for again within a minute, the same link serves.
ALTER TABLE desk_link ADD COLUMN IF NOT EXISTS ask_id CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NULL;
ALTER TABLE pushed_entry MODIFY name VARCHAR(250) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
UPDATE pushed_entry SET name = LOWER(name);
ALTER TABLE directory_group
  MODIFY directory_id VARCHAR(250) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE group_member MODIFY member VARCHAR(250) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE session MODIFY account VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
UPDATE session SET account = LOWER(account);
ALTER TABLE session_past MODIFY account VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
UPDATE session_past SET account = LOWER(account);
ALTER TABLE session_act MODIFY account VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
UPDATE session_act SET account = LOWER(account);
ALTER TABLE look_along MODIFY account VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
UPDATE look_along SET account = LOWER(account);
ALTER TABLE arrival MODIFY account VARCHAR(64) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
UPDATE arrival SET account = LOWER(account);
ALTER TABLE desk_favourite
  MODIFY pool VARCHAR(24) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  MODIFY item VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE operator
  MODIFY mail VARCHAR(254) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  MODIFY subject VARCHAR(255) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NULL;
ALTER TABLE saved_view MODIFY name VARCHAR(60) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE outside_group MODIFY name VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE outside_group_customer
  MODIFY group_name VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;

-- What a provider names, and prices by it.
ALTER TABLE node
  MODIFY id VARCHAR(32) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  MODIFY zone VARCHAR(32) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE resource MODIFY node VARCHAR(32) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NULL;
ALTER TABLE provider_rate
  MODIFY meter VARCHAR(32) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  MODIFY size VARCHAR(16) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL DEFAULT '';
ALTER TABLE rate
  MODIFY card_code VARCHAR(16) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  MODIFY meter VARCHAR(32) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  MODIFY size VARCHAR(16) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL DEFAULT '';
ALTER TABLE meter_interval
  MODIFY pool VARCHAR(24) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL DEFAULT '',
  MODIFY meter VARCHAR(32) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE address_range MODIFY cidr VARCHAR(18) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;

-- Codes and names of ours.
ALTER TABLE plan MODIFY code VARCHAR(16) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE plan_version MODIFY plan_code VARCHAR(16) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE rate_card MODIFY code VARCHAR(16) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE customer
  MODIFY code VARCHAR(16) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  MODIFY card_code VARCHAR(16) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NULL,
  MODIFY realm VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE customer_plan MODIFY plan_code VARCHAR(16) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE template MODIFY code VARCHAR(32) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE template_revision
  MODIFY template_code VARCHAR(32) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL;
ALTER TABLE environment
  MODIFY name VARCHAR(24) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
  MODIFY template_code VARCHAR(32) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NULL,
  MODIFY held_name VARCHAR(24) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin AS (IF(retired_at IS NULL, name, NULL)) STORED,
  MODIFY image_code VARCHAR(24) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin
    AS (IF(holds = 'image' AND retired_at IS NULL, name, NULL)) STORED;

ALTER TABLE outside_group_customer ADD CONSTRAINT of_group FOREIGN KEY IF NOT EXISTS of_group (group_name) REFERENCES outside_group (name);
ALTER TABLE rate ADD CONSTRAINT of_card FOREIGN KEY IF NOT EXISTS of_card (card_code) REFERENCES rate_card (code);
ALTER TABLE customer ADD CONSTRAINT customer_card FOREIGN KEY IF NOT EXISTS customer_card (card_code) REFERENCES rate_card (code);
ALTER TABLE plan_version ADD CONSTRAINT of_plan FOREIGN KEY IF NOT EXISTS of_plan (plan_code) REFERENCES plan (code);
ALTER TABLE customer_plan ADD CONSTRAINT of_plan_version FOREIGN KEY IF NOT EXISTS of_plan_version (plan_code, version) REFERENCES plan_version (plan_code, version);
ALTER TABLE template_revision ADD CONSTRAINT of_template FOREIGN KEY IF NOT EXISTS of_template (template_code) REFERENCES template (code);
ALTER TABLE environment
  ADD CONSTRAINT from_revision FOREIGN KEY IF NOT EXISTS from_revision (template_code, revision) REFERENCES template_revision (template_code, revision),
  ADD CONSTRAINT of_owner FOREIGN KEY IF NOT EXISTS of_owner (template_owner, template_code) REFERENCES template (customer_id, code);
SET FOREIGN_KEY_CHECKS = 1;
