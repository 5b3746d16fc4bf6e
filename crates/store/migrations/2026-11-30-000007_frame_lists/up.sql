-- Frames of sequences, by what is in them: a revision names its lists instead of saying thousands of files once more.
CREATE TABLE frame_lists (
    hash   TEXT PRIMARY KEY,
    frames JSONB NOT NULL
);
