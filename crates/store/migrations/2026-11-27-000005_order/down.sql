ALTER TABLE revisions DROP COLUMN name;
ALTER TABLE shots DROP COLUMN put_away, DROP COLUMN deleted_at;
