-- Steps of a note, with typed parameters.
ALTER TABLE notes ADD COLUMN IF NOT EXISTS steps JSON NOT NULL DEFAULT '[]';

-- The asset that a written file is of: notes look up how it was taken out.
ALTER TABLE haul_files ADD COLUMN IF NOT EXISTS path_digest BINARY(16) NULL;
ALTER TABLE haul_files ADD KEY IF NOT EXISTS files_by_path (path_digest, run_id);

-- Notes as they were run again, with what came of each step.
CREATE TABLE IF NOT EXISTS note_runs (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  channel_id INT UNSIGNED NOT NULL,
  path_digest BINARY(16) NOT NULL,
  -- Empty: the builds that the steps name.
  build VARCHAR(120) NOT NULL,
  done_by VARCHAR(120) NOT NULL,
  started_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  revision INT UNSIGNED NOT NULL,
  steps JSON NOT NULL,
  outcomes JSON NOT NULL,
  KEY runs_of_note (channel_id, path_digest, id),
  FOREIGN KEY (channel_id) REFERENCES channels (id)
);
