-- Signatures say more: of which squares, triangles, words and ends of sounds two contents share.
ALTER TABLE content_facts MODIFY COLUMN signature VARBINARY(255) NULL;
ALTER TABLE readings MODIFY COLUMN signature VARBINARY(255) NULL;
