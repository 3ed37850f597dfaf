-- Several machines work off one queue: a job that reads a folder of one of them is done there.
ALTER TABLE jobs
  -- The data folder beside which its source lies; null where anybody may take it.
  ADD COLUMN IF NOT EXISTS place VARCHAR(64) NULL;
