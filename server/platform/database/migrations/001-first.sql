-- Titles, channels and the line of builds.
CREATE TABLE IF NOT EXISTS titles (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL UNIQUE,
  -- The statement on rights that stands on every published page.
  rights TEXT NOT NULL
);

CREATE TABLE IF NOT EXISTS channels (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  title_id INT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  UNIQUE (title_id, name),
  FOREIGN KEY (title_id) REFERENCES titles (id)
);

CREATE TABLE IF NOT EXISTS builds (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  channel_id INT UNSIGNED NOT NULL,
  -- Place on the line of builds, counted from 1; NULL until it has been indexed once.
  sequence INT UNSIGNED NULL,
  label VARCHAR(120) NOT NULL,
  source TEXT NOT NULL,
  released_at DATETIME(3) NOT NULL,
  indexed_at DATETIME(3) NULL,
  -- Version of the readers that had read all of its contents.
  readers_version INT UNSIGNED NOT NULL DEFAULT 0,
  -- What `worvel index` printed of it; NULL until then.
  result JSON NULL,
  UNIQUE (channel_id, label),
  UNIQUE (channel_id, sequence),
  FOREIGN KEY (channel_id) REFERENCES channels (id)
);

-- Paths, once however many builds hold them. The digest is the first 16 bytes of the BLAKE3 of the path: paths
-- may be longer than an index key, and rows in the order of the digest merge without sorting.
CREATE TABLE IF NOT EXISTS paths (
  digest BINARY(16) NOT NULL PRIMARY KEY,
  path TEXT NOT NULL
);

-- Append-only files that hold the small contents; large ones have a file each (pack 0).
CREATE TABLE IF NOT EXISTS packs (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  sealed TINYINT NOT NULL DEFAULT 0,
  owner VARCHAR(64) NOT NULL
);

CREATE TABLE IF NOT EXISTS contents (
  hash BINARY(32) NOT NULL PRIMARY KEY,
  size BIGINT UNSIGNED NOT NULL,
  pack_id INT UNSIGNED NOT NULL,
  pack_offset BIGINT UNSIGNED NOT NULL,
  -- The job that brought it in first, so that a job knows what was new even after it was resumed; 0 for previews.
  job_id INT UNSIGNED NOT NULL,
  KEY contents_by_pack (pack_id),
  KEY contents_by_job (job_id)
);

-- Contents that a crash took from the store, and that a build may name: stored again when they are met again.
CREATE TABLE IF NOT EXISTS lost_contents (
  hash BINARY(32) NOT NULL PRIMARY KEY
);

-- What a reader found out about a content, once for all builds that hold it.
CREATE TABLE IF NOT EXISTS content_facts (
  hash BINARY(32) NOT NULL,
  format VARCHAR(16) NOT NULL,
  readers_version INT UNSIGNED NOT NULL,
  facts JSON NULL,
  -- Why it could not be read.
  reason TEXT NULL,
  preview_hash BINARY(32) NULL,
  -- For formats that name other files: what was read along with it, [[reference, hash or null], …].
  resources JSON NULL,
  PRIMARY KEY (hash, format)
);

-- What lies at a path, over a span of builds: one row for as long as it stays the same, so that a build costs what
-- it changed. last_sequence is 4294967295 while the newest build still has it.
-- role: 0 file, 1 container, 2 link. A file without a hash could not be read.
CREATE TABLE IF NOT EXISTS asset_spans (
  channel_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  first_sequence INT UNSIGNED NOT NULL,
  last_sequence INT UNSIGNED NOT NULL,
  role TINYINT UNSIGNED NOT NULL,
  format VARCHAR(16) NOT NULL,
  by_extension TINYINT UNSIGNED NOT NULL,
  size BIGINT UNSIGNED NULL,
  hash BINARY(32) NULL,
  target_digest BINARY(16) NULL,
  -- The file of the source that it came out of.
  unit_digest BINARY(16) NOT NULL,
  -- BLAKE3 of the compressed bytes, the method and the checksum of an archive's entry: where these are the same in the
  -- next build, the entry need not be unpacked to know that its content is.
  packed_hash BINARY(32) NULL,
  PRIMARY KEY (channel_id, path_digest, first_sequence),
  KEY spans_by_first (channel_id, first_sequence),
  KEY spans_by_last (channel_id, last_sequence),
  KEY spans_by_hash (hash, channel_id)
);

-- The files that a channel's newest build was read from, by what the system tells of them: one that is still the same
-- need not be read for the next build. Zeros where its last change was too recent to be sure.
CREATE TABLE IF NOT EXISTS source_files (
  channel_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  signature BINARY(16) NOT NULL,
  PRIMARY KEY (channel_id, path_digest)
);

-- What could not be read, or was refused, in a build: with its reason.
CREATE TABLE IF NOT EXISTS problems (
  build_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  unit_digest BINARY(16) NOT NULL,
  reason TEXT NOT NULL,
  PRIMARY KEY (build_id, path_digest),
  FOREIGN KEY (build_id) REFERENCES builds (id)
);

-- The queue. A running job's lease is renewed by whoever runs it; when it ran out, anyone may take the job over.
CREATE TABLE IF NOT EXISTS jobs (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  state VARCHAR(16) NOT NULL,
  build_id INT UNSIGNED NOT NULL,
  replaces TINYINT NOT NULL,
  threads INT UNSIGNED NULL,
  source TEXT NOT NULL,
  -- The state of the build that what was gathered so far is a difference to; empty where it is no difference.
  base VARCHAR(64) NOT NULL DEFAULT '',
  progress JSON NULL,
  result JSON NULL,
  error TEXT NULL,
  owner VARCHAR(64) NULL,
  lease_until DATETIME(3) NULL,
  stop_requested TINYINT NOT NULL DEFAULT 0,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  finished_at DATETIME(3) NULL,
  KEY jobs_by_state (state, id),
  FOREIGN KEY (build_id) REFERENCES builds (id)
);

-- What a running job has found so far, and what differs from the build before where there is one. A file of the source
-- stands in intake_sources when all that came out of it is here: a resumed job need not read it again.
CREATE TABLE IF NOT EXISTS intake_assets (
  job_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  unit_digest BINARY(16) NOT NULL,
  role TINYINT UNSIGNED NOT NULL,
  format VARCHAR(16) NOT NULL,
  by_extension TINYINT UNSIGNED NOT NULL,
  size BIGINT UNSIGNED NULL,
  hash BINARY(32) NULL,
  target_digest BINARY(16) NULL,
  packed_hash BINARY(32) NULL,
  PRIMARY KEY (job_id, path_digest),
  KEY intake_by_unit (job_id, unit_digest)
);

CREATE TABLE IF NOT EXISTS intake_problems (
  job_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  unit_digest BINARY(16) NOT NULL,
  reason TEXT NOT NULL,
  -- 1 where the thing is locked with a key rather than broken.
  locked TINYINT NOT NULL,
  PRIMARY KEY (job_id, path_digest)
);

CREATE TABLE IF NOT EXISTS intake_sources (
  job_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  signature BINARY(16) NOT NULL,
  PRIMARY KEY (job_id, path_digest)
);

-- Paths that were met as the build before has them, many to a row: pairs of path digest and unit digest.
CREATE TABLE IF NOT EXISTS intake_met (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  job_id INT UNSIGNED NOT NULL,
  pairs MEDIUMBLOB NOT NULL,
  KEY met_by_job (job_id)
);

-- Paths of the build before that were not met.
CREATE TABLE IF NOT EXISTS intake_gone (
  job_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  PRIMARY KEY (job_id, path_digest)
);

-- The pass through a span: what a person kept or set aside.
CREATE TABLE IF NOT EXISTS marks (
  channel_id INT UNSIGNED NOT NULL,
  from_build INT UNSIGNED NOT NULL,
  to_build INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  mark VARCHAR(16) NOT NULL,
  PRIMARY KEY (channel_id, from_build, to_build, path_digest)
);

CREATE TABLE IF NOT EXISTS notes (
  channel_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  body MEDIUMTEXT NOT NULL,
  revision INT UNSIGNED NOT NULL,
  saved_at DATETIME(3) NOT NULL,
  PRIMARY KEY (channel_id, path_digest)
);

CREATE TABLE IF NOT EXISTS entries (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  channel_id INT UNSIGNED NOT NULL,
  name VARCHAR(200) NOT NULL,
  internal_name VARCHAR(200) NOT NULL,
  summary TEXT NOT NULL,
  credits TEXT NOT NULL,
  spoiler TINYINT NOT NULL,
  state VARCHAR(16) NOT NULL,
  revision INT UNSIGNED NOT NULL,
  changed_at DATETIME(3) NOT NULL,
  KEY entries_by_channel (channel_id, name),
  FOREIGN KEY (channel_id) REFERENCES channels (id)
);

CREATE TABLE IF NOT EXISTS entry_assets (
  entry_id INT UNSIGNED NOT NULL,
  place INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  PRIMARY KEY (entry_id, place),
  FOREIGN KEY (entry_id) REFERENCES entries (id) ON DELETE CASCADE
);

CREATE TABLE IF NOT EXISTS editions (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  title_id INT UNSIGNED NOT NULL,
  published_at DATETIME(3) NOT NULL,
  entries INT UNSIGNED NOT NULL,
  FOREIGN KEY (title_id) REFERENCES titles (id)
);
