-- What comparing two contents found out, once for all spans that have the pair.
CREATE TABLE IF NOT EXISTS comparisons (
  new_hash BINARY(32) NOT NULL,
  old_hash BINARY(32) NOT NULL,
  new_format VARCHAR(16) NOT NULL,
  old_format VARCHAR(16) NOT NULL,
  comparers_version INT UNSIGNED NOT NULL,
  -- What findings are judged by, beside the whole.
  nature VARCHAR(20) NULL,
  extent FLOAT NULL,
  sentence TEXT NULL,
  result MEDIUMTEXT NULL,
  -- Why the two could not be compared.
  reason TEXT NULL,
  picture_hash BINARY(32) NULL,
  PRIMARY KEY (new_hash, old_hash, new_format, old_format),
  KEY comparisons_by_old (old_hash),
  KEY comparisons_by_picture (picture_hash)
);

-- Spans that were looked through for what is alike and compared; `state` tells which builds they were made of.
CREATE TABLE IF NOT EXISTS span_evidence (
  channel_id INT UNSIGNED NOT NULL,
  from_build INT UNSIGNED NOT NULL,
  to_build INT UNSIGNED NOT NULL,
  state VARCHAR(120) NOT NULL,
  -- Counts up with everything that changes the findings of the span.
  revision INT UNSIGNED NOT NULL DEFAULT 1,
  -- Folders that moved as a whole, [{from, to, files}, …].
  folder_moves MEDIUMTEXT NULL,
  finished_at DATETIME(3) NOT NULL,
  PRIMARY KEY (channel_id, from_build, to_build)
);

-- Paths of two builds that seem to be one thing, and what a person said of it: proposed, joined, parted.
CREATE TABLE IF NOT EXISTS likeness_pairs (
  channel_id INT UNSIGNED NOT NULL,
  from_build INT UNSIGNED NOT NULL,
  to_build INT UNSIGNED NOT NULL,
  new_digest BINARY(16) NOT NULL,
  old_digest BINARY(16) NOT NULL,
  score FLOAT NOT NULL,
  reason VARCHAR(300) NOT NULL,
  said VARCHAR(16) NOT NULL,
  said_by VARCHAR(120) NOT NULL DEFAULT '',
  PRIMARY KEY (channel_id, from_build, to_build, new_digest, old_digest)
);

-- The pass through a span: what each change of marks was, so that it can be undone, and told to others.
CREATE TABLE IF NOT EXISTS mark_batches (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  channel_id INT UNSIGNED NOT NULL,
  from_build INT UNSIGNED NOT NULL,
  to_build INT UNSIGNED NOT NULL,
  done_by VARCHAR(120) NOT NULL,
  -- In a sentence: “kept 12”.
  what VARCHAR(200) NOT NULL,
  done_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  undone TINYINT NOT NULL DEFAULT 0,
  KEY batches_by_span (channel_id, from_build, to_build, id)
);

CREATE TABLE IF NOT EXISTS mark_changes (
  batch_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  -- What it was before; NULL where nothing had been said.
  before_change JSON NULL,
  PRIMARY KEY (batch_id, path_digest),
  FOREIGN KEY (batch_id) REFERENCES mark_batches (id) ON DELETE CASCADE
);

ALTER TABLE marks
  ADD COLUMN IF NOT EXISTS assignee VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS labels JSON NOT NULL DEFAULT '[]',
  -- The batch that changed it last: whoever has not seen that one does not overwrite it.
  ADD COLUMN IF NOT EXISTS revision INT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN IF NOT EXISTS changed_by VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS changed_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3);

CREATE TABLE IF NOT EXISTS remarks (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  channel_id INT UNSIGNED NOT NULL,
  from_build INT UNSIGNED NOT NULL,
  to_build INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  body TEXT NOT NULL,
  said_by VARCHAR(120) NOT NULL,
  said_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY remarks_by_finding (channel_id, from_build, to_build, path_digest)
);

-- Rules that fold findings away as noise, as a title has them: [{key, name, isOn, …}, …].
ALTER TABLE titles ADD COLUMN IF NOT EXISTS noise_rules JSON NULL;
