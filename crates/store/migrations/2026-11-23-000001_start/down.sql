ALTER TABLE shots DROP CONSTRAINT shots_head_exists;
DROP TABLE revisions;
DROP TABLE shots;
DROP TABLE media;
