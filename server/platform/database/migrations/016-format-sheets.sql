-- A team's descriptions of a game's own formats, [{name, text}, …].
ALTER TABLE titles
  ADD COLUMN IF NOT EXISTS format_sheets LONGTEXT NULL;
