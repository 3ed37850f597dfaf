-- A build is there once its files are recorded; what is in them is read afterwards.
ALTER TABLE builds
  -- The readers that have read all of it; null as long as something is left.
  ADD COLUMN IF NOT EXISTS facts_version INT UNSIGNED NULL,
  -- Counts up while facts of it come in.
  ADD COLUMN IF NOT EXISTS facts_revision INT UNSIGNED NOT NULL DEFAULT 0;
-- What no reader made sense of is found without looking at all that they did.
ALTER TABLE content_facts ADD KEY IF NOT EXISTS facts_by_reason (reason(1));
UPDATE builds SET facts_version = readers_version WHERE sequence IS NOT NULL;
