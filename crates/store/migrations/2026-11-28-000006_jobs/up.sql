-- Frames that were written, by all that decides their bytes: what is there is not rendered twice.
CREATE TABLE rendered (
    content TEXT PRIMARY KEY,
    media   TEXT NOT NULL REFERENCES media (hash) ON DELETE CASCADE,
    bytes   BIGINT NOT NULL CHECK (bytes >= 0),
    picture BYTEA
);

-- A range of frames of a revision that is written by whoever has time.
CREATE TABLE jobs (
    id       UUID PRIMARY KEY,
    shot_id  UUID NOT NULL,
    revision INTEGER NOT NULL,
    wish     JSONB NOT NULL,
    first    INTEGER NOT NULL,
    last     INTEGER NOT NULL CHECK (last >= first),
    state    TEXT NOT NULL DEFAULT 'running' CHECK (state IN ('running', 'paused', 'stopped', 'done')),
    priority INTEGER NOT NULL DEFAULT 0,
    made_at  TIMESTAMPTZ NOT NULL DEFAULT now(),
    ended_at TIMESTAMPTZ,
    FOREIGN KEY (shot_id, revision) REFERENCES revisions (shot_id, number) ON DELETE CASCADE
);

CREATE INDEX jobs_of_shot ON jobs (shot_id, made_at);
CREATE INDEX jobs_running ON jobs (priority DESC, made_at) WHERE state = 'running';

-- A frame is free from `free_at` on. A worker that takes it moves that on again and again while it is at work, so that the
-- frame of one that dies becomes free by itself.
CREATE TABLE job_frames (
    job_id   UUID NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    frame    INTEGER NOT NULL,
    state    TEXT NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'done', 'failed')),
    free_at  TIMESTAMPTZ NOT NULL DEFAULT now(),
    worker   TEXT,
    attempts INTEGER NOT NULL DEFAULT 0,
    error    TEXT,
    content  TEXT REFERENCES rendered (content) ON DELETE SET NULL,
    took_ms  BIGINT,
    PRIMARY KEY (job_id, frame)
);

CREATE INDEX job_frames_open ON job_frames (job_id, frame) WHERE state = 'open';
CREATE INDEX job_frames_content ON job_frames (content);
CREATE INDEX rendered_media ON rendered (media);
