-- What a content says of other files, [{text, sort, where}, …].
ALTER TABLE content_facts
  ADD COLUMN IF NOT EXISTS mentions MEDIUMTEXT NULL;

-- How a title's names are split, what is known of its parts, and how its placement tables are written.
ALTER TABLE titles
  ADD COLUMN IF NOT EXISTS split_rules JSON NULL,
  -- Counts up with every change of the lexicon, the links and the families: what was made of them is made again then.
  ADD COLUMN IF NOT EXISTS names_revision INT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN IF NOT EXISTS recipes JSON NULL;

CREATE TABLE IF NOT EXISTS lexicon (
  title_id INT UNSIGNED NOT NULL,
  part VARCHAR(120) NOT NULL,
  role VARCHAR(32) NOT NULL,
  meaning VARCHAR(300) NOT NULL,
  said_by VARCHAR(120) NOT NULL,
  since_build VARCHAR(120) NOT NULL,
  -- 1 where a person said that the part is not to be proposed.
  refused TINYINT NOT NULL DEFAULT 0,
  PRIMARY KEY (title_id, part),
  FOREIGN KEY (title_id) REFERENCES titles (id)
);

-- Links that a person accepted: what a file means by what it says. They hold in later builds too.
CREATE TABLE IF NOT EXISTS accepted_links (
  channel_id INT UNSIGNED NOT NULL,
  from_digest BINARY(16) NOT NULL,
  -- First 16 bytes of the BLAKE3 of the text: texts may be longer than an index key.
  text_digest BINARY(16) NOT NULL,
  text TEXT NOT NULL,
  target_digest BINARY(16) NOT NULL,
  accepted_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  PRIMARY KEY (channel_id, from_digest, text_digest),
  FOREIGN KEY (channel_id) REFERENCES channels (id)
);

-- What a person said of families: a file belongs to the family of another one, or to none (zeros).
CREATE TABLE IF NOT EXISTS family_corrections (
  channel_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  with_digest BINARY(16) NOT NULL,
  PRIMARY KEY (channel_id, path_digest),
  FOREIGN KEY (channel_id) REFERENCES channels (id)
);

-- Places that people return to: an address in the library or an asset.
CREATE TABLE IF NOT EXISTS bookmarks (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  channel_id INT UNSIGNED NOT NULL,
  name VARCHAR(200) NOT NULL,
  -- The query of the address: path=…, text=…
  place VARCHAR(2000) NOT NULL,
  FOREIGN KEY (channel_id) REFERENCES channels (id)
);

-- Assets collected in order to be taken out together.
CREATE TABLE IF NOT EXISTS haul_assets (
  channel_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  -- Label of the build that it was collected from.
  build VARCHAR(120) NOT NULL,
  added_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  PRIMARY KEY (channel_id, path_digest),
  FOREIGN KEY (channel_id) REFERENCES channels (id)
);
