-- Jobs of more kinds than indexing, with a priority; higher ones go first.
ALTER TABLE jobs
  ADD COLUMN IF NOT EXISTS kind VARCHAR(16) NOT NULL DEFAULT 'index',
  ADD COLUMN IF NOT EXISTS priority INT NOT NULL DEFAULT 0,
  ADD COLUMN IF NOT EXISTS attempts INT UNSIGNED NOT NULL DEFAULT 0,
  -- What its kind needs to know.
  ADD COLUMN IF NOT EXISTS params JSON NULL,
  -- Bytes a second over its time, for the chart.
  ADD COLUMN IF NOT EXISTS speeds JSON NULL,
  -- What came of a job that is not the indexing of a build.
  ADD COLUMN IF NOT EXISTS report JSON NULL,
  -- What the job is about, where its build is gone or never was.
  ADD COLUMN IF NOT EXISTS subject VARCHAR(400) NOT NULL DEFAULT '',
  MODIFY COLUMN build_id INT UNSIGNED NULL;
