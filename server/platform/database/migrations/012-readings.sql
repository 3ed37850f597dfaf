-- What was read of contents that name other files, by what these were: the same model is another one beside another
-- buffer or texture, and what was read once is there when a build has the old ones again. content_facts has the newest.
CREATE TABLE IF NOT EXISTS readings (
  hash BINARY(32) NOT NULL,
  format VARCHAR(16) NOT NULL,
  -- First 16 bytes of the BLAKE3 of resources.
  resources_digest BINARY(16) NOT NULL,
  readers_version INT UNSIGNED NOT NULL,
  facts JSON NULL,
  reason TEXT NULL,
  preview_hash BINARY(32) NULL,
  -- What was read along with it, [[reference, hash or null], …].
  resources JSON NOT NULL,
  fingerprint BINARY(32) NULL,
  signature VARBINARY(64) NULL,
  mentions MEDIUMTEXT NULL,
  PRIMARY KEY (hash, format, resources_digest),
  KEY readings_by_preview (preview_hash)
);
