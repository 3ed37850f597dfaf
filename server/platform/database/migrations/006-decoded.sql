-- BLAKE3 of the decoded content: equal for what is the same to a person, whatever its bytes are. And what it is like, in
-- few bytes, for finding contents that are alike.
ALTER TABLE content_facts
  ADD COLUMN IF NOT EXISTS fingerprint BINARY(32) NULL,
  ADD COLUMN IF NOT EXISTS signature VARBINARY(64) NULL,
  ADD INDEX IF NOT EXISTS facts_by_fingerprint (fingerprint);
