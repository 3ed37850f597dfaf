-- More of an entry: names in languages, tags, relations, sources, how far it is withheld or a spoiler.
ALTER TABLE entries
  ADD COLUMN IF NOT EXISTS details JSON NOT NULL DEFAULT '{}',
  -- Who wrote it last, and who approved that.
  ADD COLUMN IF NOT EXISTS written_by VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS approved_by VARCHAR(120) NOT NULL DEFAULT '';

ALTER TABLE entry_assets ADD KEY IF NOT EXISTS entries_of_asset (path_digest);

-- How a title's catalogue is published: address, look, rules of review.
ALTER TABLE titles ADD COLUMN IF NOT EXISTS site JSON NOT NULL DEFAULT '{}';

-- What people remark on a field of an entry before it is published.
CREATE TABLE IF NOT EXISTS entry_remarks (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  entry_id INT UNSIGNED NOT NULL,
  field VARCHAR(40) NOT NULL,
  text TEXT NOT NULL,
  written_by VARCHAR(120) NOT NULL,
  written_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  settled TINYINT NOT NULL DEFAULT 0,
  KEY remarks_of_entry (entry_id, id),
  FOREIGN KEY (entry_id) REFERENCES entries (id) ON DELETE CASCADE
);

-- All addresses that an entry ever had in an edition: old ones lead on to the newest.
CREATE TABLE IF NOT EXISTS entry_addresses (
  title_id INT UNSIGNED NOT NULL,
  slug VARCHAR(120) NOT NULL,
  entry_id INT UNSIGNED NOT NULL,
  PRIMARY KEY (title_id, slug)
);

ALTER TABLE editions
  -- Counted from 1 for each title.
  ADD COLUMN IF NOT EXISTS number INT UNSIGNED NULL,
  ADD COLUMN IF NOT EXISTS published_by VARCHAR(120) NOT NULL DEFAULT '',
  -- The edition whose state it has, where somebody went back to that.
  ADD COLUMN IF NOT EXISTS back_to INT UNSIGNED NULL,
  -- What became different, in numbers.
  ADD COLUMN IF NOT EXISTS changes JSON NULL,
  ADD COLUMN IF NOT EXISTS folder TEXT NULL;

UPDATE editions e SET number = (SELECT COUNT(*) FROM (SELECT id, title_id FROM editions) o WHERE o.title_id = e.title_id AND o.id <= e.id)
 WHERE number IS NULL;

-- Editions are signed with a key of their title: Ed25519, sealed with the master key.
CREATE TABLE IF NOT EXISTS signing_keys (
  title_id INT UNSIGNED NOT NULL PRIMARY KEY,
  sealed VARBINARY(512) NOT NULL,
  public_key TEXT NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  FOREIGN KEY (title_id) REFERENCES titles (id)
);
