-- What was shown, drawn or converted once is there the next time: a content made of another one.
CREATE TABLE IF NOT EXISTS derivatives (
  source_hash BINARY(32) NOT NULL,
  operation VARCHAR(16) NOT NULL,
  -- First 16 bytes of the BLAKE3 of all that the outcome hangs on beside the content.
  parameters_digest BINARY(16) NOT NULL,
  version INT UNSIGNED NOT NULL,
  hash BINARY(32) NOT NULL,
  PRIMARY KEY (source_hash, operation, parameters_digest),
  KEY derivatives_by_hash (hash)
);
