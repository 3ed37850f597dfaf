-- What is to be taken out together, by name; several of a channel.
CREATE TABLE IF NOT EXISTS hauls (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  channel_id INT UNSIGNED NOT NULL,
  name VARCHAR(200) NOT NULL,
  -- How it is written.
  settings JSON NOT NULL,
  changed_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  UNIQUE (channel_id, name),
  FOREIGN KEY (channel_id) REFERENCES channels (id)
);

CREATE TABLE IF NOT EXISTS haul_items (
  haul_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  -- Label of the build that it was collected from.
  build VARCHAR(120) NOT NULL,
  PRIMARY KEY (haul_id, path_digest),
  FOREIGN KEY (haul_id) REFERENCES hauls (id) ON DELETE CASCADE
);

INSERT IGNORE INTO hauls (channel_id, name, settings) SELECT DISTINCT channel_id, 'First haul', '{}' FROM haul_assets;

INSERT IGNORE INTO haul_items (haul_id, path_digest, build)
  SELECT h.id, a.path_digest, a.build FROM haul_assets a JOIN hauls h ON h.channel_id = a.channel_id AND h.name = 'First haul';

DROP TABLE haul_assets;

-- Settings that a team keeps by name.
CREATE TABLE IF NOT EXISTS profiles (
  name VARCHAR(100) NOT NULL PRIMARY KEY,
  settings JSON NOT NULL
);

-- A haul as it was written once.
CREATE TABLE IF NOT EXISTS haul_runs (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  channel_id INT UNSIGNED NOT NULL,
  -- Gone when the haul is.
  haul_id INT UNSIGNED NULL,
  name VARCHAR(200) NOT NULL,
  settings JSON NOT NULL,
  -- Empty where it is kept with the data, to be fetched as ZIP.
  folder TEXT NOT NULL,
  job_id INT UNSIGNED NULL,
  started_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  finished_at DATETIME(3) NULL,
  INDEX runs_of_channel (channel_id, id),
  FOREIGN KEY (channel_id) REFERENCES channels (id)
);

CREATE TABLE IF NOT EXISTS haul_files (
  run_id INT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  -- What it is to become, and of what.
  plan JSON NOT NULL,
  verdict VARCHAR(20) NOT NULL DEFAULT 'waiting',
  -- What differs, or why there is nothing.
  sentence TEXT NOT NULL,
  -- The files that came of it, with their hashes.
  files JSON NULL,
  PRIMARY KEY (run_id, number),
  INDEX files_by_verdict (run_id, verdict, number),
  FOREIGN KEY (run_id) REFERENCES haul_runs (id) ON DELETE CASCADE
);
