-- Names of bones that belong together: those of a model, or those that clips move. Few lists for many clips.
CREATE TABLE IF NOT EXISTS bone_lists (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  -- First 16 bytes of the BLAKE3 of the names.
  digest BINARY(16) NOT NULL,
  -- ["name", …], sorted.
  names MEDIUMTEXT NOT NULL,
  UNIQUE (digest)
);

-- Which contents have which lists of bones.
CREATE TABLE IF NOT EXISTS content_bones (
  hash BINARY(32) NOT NULL,
  format VARCHAR(16) NOT NULL,
  digest BINARY(16) NOT NULL,
  -- 1: what its clips move; 0: its own bones.
  is_moved TINYINT NOT NULL,
  -- Names of the clips that move these, ["name", …]; NULL for its own bones.
  clips MEDIUMTEXT NULL,
  PRIMARY KEY (hash, format, is_moved, digest),
  KEY bones_by_list (is_moved, digest)
);

-- How people set a model up: layers of clips, props on bones, parts left out or moved. By name, for a path of a title.
CREATE TABLE IF NOT EXISTS arrangements (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  title_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  name VARCHAR(120) NOT NULL,
  body MEDIUMTEXT NOT NULL,
  UNIQUE (title_id, path_digest, name),
  FOREIGN KEY (title_id) REFERENCES titles (id)
);
