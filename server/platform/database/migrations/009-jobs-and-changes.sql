-- Jobs that must run alone say so themselves, so that every process that takes jobs knows, whatever it can run.
ALTER TABLE jobs
  ADD COLUMN IF NOT EXISTS exclusive TINYINT UNSIGNED NOT NULL DEFAULT 0;
UPDATE jobs SET exclusive = 1 WHERE kind IN ('remove', 'check');
