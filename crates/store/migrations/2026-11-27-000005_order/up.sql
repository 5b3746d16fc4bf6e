-- A shot that is put away is out of the list until somebody looks for it; one that is deleted can be brought back until
-- it is collected.
ALTER TABLE shots ADD COLUMN put_away BOOLEAN NOT NULL DEFAULT false;
ALTER TABLE shots ADD COLUMN deleted_at TIMESTAMPTZ;

-- Revisions with a name.
ALTER TABLE revisions ADD COLUMN name TEXT;
