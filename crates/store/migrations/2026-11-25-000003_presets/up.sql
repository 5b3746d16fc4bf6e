-- Steps kept under a name, with a small picture of what they did where they were saved.
CREATE TABLE presets (
    id      UUID PRIMARY KEY,
    name    TEXT NOT NULL,
    preset  JSONB NOT NULL,
    picture BYTEA,
    made_at TIMESTAMPTZ NOT NULL DEFAULT now()
);
