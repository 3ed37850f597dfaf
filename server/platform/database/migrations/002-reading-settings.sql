-- How a build is read: platform, content root, what is left out, keys. The channel's are proposed for its next build.
ALTER TABLE channels ADD COLUMN IF NOT EXISTS settings JSON NULL;
ALTER TABLE builds ADD COLUMN IF NOT EXISTS settings JSON NULL;

-- 1 where a thing is locked with a key rather than broken.
ALTER TABLE problems ADD COLUMN IF NOT EXISTS locked TINYINT NOT NULL DEFAULT 0;

-- Keys of a title's locked archives, encrypted with the master key, which lies outside the database.
CREATE TABLE IF NOT EXISTS title_keys (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  title_id INT UNSIGNED NOT NULL,
  -- passphrase, hex or base64: how it was typed in.
  form VARCHAR(16) NOT NULL,
  -- AES-256-GCM: nonce of 12 bytes, ciphertext, tag of 16 bytes.
  sealed VARBINARY(2048) NOT NULL,
  -- HMAC of the key under the master key: the same key is not kept twice.
  mark BINARY(16) NOT NULL,
  -- Labels of the builds that it is for; empty for all.
  builds JSON NOT NULL,
  remark VARCHAR(500) NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  UNIQUE (title_id, mark),
  FOREIGN KEY (title_id) REFERENCES titles (id)
);
