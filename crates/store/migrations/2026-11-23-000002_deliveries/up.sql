-- Revisions that brought files and no change of anybody's mind: a change made on the one before them is
-- carried over instead of refused.
ALTER TABLE revisions ADD COLUMN delivered BOOLEAN NOT NULL DEFAULT false;

-- A folder in the drop folder, and the shot that its files make.
CREATE TABLE deliveries (
    folder  TEXT PRIMARY KEY,
    shot_id UUID NOT NULL REFERENCES shots (id) ON DELETE CASCADE
);

-- Files of the drop folder as they were when they were taken; one that changes is taken again.
CREATE TABLE delivered (
    folder   TEXT NOT NULL,
    name     TEXT NOT NULL,
    bytes    BIGINT NOT NULL CHECK (bytes >= 0),
    modified TIMESTAMPTZ NOT NULL,
    PRIMARY KEY (folder, name)
);
