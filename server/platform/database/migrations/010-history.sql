-- One log of all that people change: who, when, what it was before and after. Marks of a span are changes too; the number of a
-- change is the revision of what it changed.
CREATE TABLE IF NOT EXISTS changes (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  title_id INT UNSIGNED NOT NULL,
  channel_id INT UNSIGNED NULL,
  from_build INT UNSIGNED NULL,
  to_build INT UNSIGNED NULL,
  subject VARCHAR(16) NOT NULL,
  -- In a sentence: “kept 12”.
  what VARCHAR(300) NOT NULL,
  done_by VARCHAR(120) NOT NULL,
  done_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  undone TINYINT NOT NULL DEFAULT 0,
  KEY changes_by_title (title_id, id),
  KEY changes_by_subject (title_id, subject, id),
  KEY changes_by_span (channel_id, from_build, to_build, id)
);

CREATE TABLE IF NOT EXISTS change_items (
  change_id INT UNSIGNED NOT NULL,
  -- First 16 bytes of the BLAKE3 of the item: paths may be longer than an index key.
  item_digest BINARY(16) NOT NULL,
  item TEXT NOT NULL,
  -- What was said of it before and after, as JSON; NULL where nothing is said.
  before_change LONGTEXT NULL,
  after_change LONGTEXT NULL,
  PRIMARY KEY (change_id, item_digest),
  KEY items_by_digest (item_digest, change_id),
  FOREIGN KEY (change_id) REFERENCES changes (id) ON DELETE CASCADE
);

INSERT IGNORE INTO changes (id, title_id, channel_id, from_build, to_build, subject, what, done_by, done_at, undone)
  SELECT m.id, c.title_id, m.channel_id, m.from_build, m.to_build, 'marks', m.what, m.done_by, m.done_at, m.undone
    FROM mark_batches m JOIN channels c ON c.id = m.channel_id;
INSERT IGNORE INTO change_items (change_id, item_digest, item, before_change)
  SELECT m.batch_id, m.path_digest, p.path, m.before_change
    FROM mark_changes m JOIN paths p ON p.digest = m.path_digest JOIN changes c ON c.id = m.batch_id;
DROP TABLE IF EXISTS mark_changes;
DROP TABLE IF EXISTS mark_batches;
