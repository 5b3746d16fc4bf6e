ALTER TABLE delivered DROP COLUMN refused, DROP COLUMN noted_at;
