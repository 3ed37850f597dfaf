-- What is looked at again and again for a new build of a channel.
CREATE TABLE IF NOT EXISTS followers (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  channel_id INT UNSIGNED NOT NULL,
  -- depot, device
  kind VARCHAR(16) NOT NULL,
  url VARCHAR(500) NOT NULL,
  -- Where the keys of its builds are given out; empty for none.
  key_post_url VARCHAR(500) NOT NULL,
  interval_seconds INT UNSIGNED NOT NULL,
  paused TINYINT NOT NULL DEFAULT 0,
  next_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  looked_at DATETIME(3) NULL,
  -- What the last look found, in a sentence.
  outcome TEXT NULL,
  failed TINYINT NOT NULL DEFAULT 0,
  -- Labels of the builds that it brought in: one that was removed since does not come again.
  seen JSON NOT NULL DEFAULT '[]',
  UNIQUE (channel_id, url),
  FOREIGN KEY (channel_id) REFERENCES channels (id)
);

CREATE TABLE IF NOT EXISTS uploads (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(200) NOT NULL,
  -- SHA-256 of the list of its files: the same files chosen again go on where they were.
  mark BINARY(32) NOT NULL,
  finished_at DATETIME(3) NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY uploads_by_mark (mark)
);

CREATE TABLE IF NOT EXISTS upload_files (
  upload_id INT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  path TEXT NOT NULL,
  size BIGINT UNSIGNED NOT NULL,
  -- Bytes that came, in chunks that were checked.
  received BIGINT UNSIGNED NOT NULL DEFAULT 0,
  PRIMARY KEY (upload_id, number),
  FOREIGN KEY (upload_id) REFERENCES uploads (id) ON DELETE CASCADE
);
