DROP TABLE delivered;
DROP TABLE deliveries;
ALTER TABLE revisions DROP COLUMN delivered;
