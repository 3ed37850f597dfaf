-- What people say of a model's textures: a file is this role of this material. For a path of a title, whatever the build.
CREATE TABLE IF NOT EXISTS texture_corrections (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  title_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  -- First 16 bytes of the BLAKE3 of material and role: names are longer than keys may be.
  slot_digest BINARY(16) NOT NULL,
  material VARCHAR(500) NOT NULL,
  role VARCHAR(40) NOT NULL,
  -- Path of the file; NULL where somebody says that there is none.
  texture TEXT NULL,
  UNIQUE (title_id, path_digest, slot_digest),
  FOREIGN KEY (title_id) REFERENCES titles (id)
);
