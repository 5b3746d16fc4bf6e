-- Whether the file of a frame lies in the folder that its job names, too.
ALTER TABLE job_frames ADD COLUMN put BOOLEAN NOT NULL DEFAULT false;
CREATE INDEX job_frames_to_put ON job_frames (job_id, frame) WHERE state = 'done' AND NOT put;
CREATE INDEX jobs_into_folder ON jobs (made_at) WHERE wish ->> 'folder' IS NOT NULL;
