-- Whether a preview is still needed is asked by its hash.
ALTER TABLE content_facts ADD KEY IF NOT EXISTS facts_by_preview (preview_hash);
