-- What everybody changed is sealed: each change with the hash of the one before, title by title.
ALTER TABLE changes
  -- From where: the address of whoever sent the request.
  ADD COLUMN IF NOT EXISTS came_from VARCHAR(64) NOT NULL DEFAULT '',
  -- Place in the chain of its title, from 1; NULL until it is sealed.
  ADD COLUMN IF NOT EXISTS seal_number INT UNSIGNED NULL,
  ADD COLUMN IF NOT EXISTS seal BINARY(32) NULL,
  ADD UNIQUE KEY IF NOT EXISTS changes_by_seal (title_id, seal_number);
