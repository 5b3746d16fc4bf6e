CREATE TABLE media (
    hash     TEXT PRIMARY KEY CHECK (hash ~ '^[0-9a-f]{64}$'),
    name     TEXT NOT NULL,
    bytes    BIGINT NOT NULL CHECK (bytes >= 0),
    added_at TIMESTAMPTZ NOT NULL DEFAULT now()
);

-- A shot stands at one of its revisions; undo and redo move `head`, nothing is ever overwritten.
CREATE TABLE shots (
    id         UUID PRIMARY KEY,
    name       TEXT NOT NULL,
    head       INTEGER NOT NULL,
    created_at TIMESTAMPTZ NOT NULL DEFAULT now(),
    changed_at TIMESTAMPTZ NOT NULL DEFAULT now()
);

CREATE TABLE revisions (
    shot_id  UUID NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
    number   INTEGER NOT NULL CHECK (number > 0),
    parent   INTEGER,
    label    TEXT NOT NULL,
    document JSONB NOT NULL,
    made_at  TIMESTAMPTZ NOT NULL DEFAULT now(),
    PRIMARY KEY (shot_id, number),
    FOREIGN KEY (shot_id, parent) REFERENCES revisions (shot_id, number)
);

-- The head must be a revision that exists, at the latest when the transaction ends.
ALTER TABLE shots
    ADD CONSTRAINT shots_head_exists FOREIGN KEY (id, head) REFERENCES revisions (shot_id, number)
    DEFERRABLE INITIALLY DEFERRED;

CREATE INDEX revisions_by_parent ON revisions (shot_id, parent, number);
