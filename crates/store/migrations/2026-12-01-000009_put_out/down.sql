DROP INDEX jobs_into_folder;
DROP INDEX job_frames_to_put;
ALTER TABLE job_frames DROP COLUMN put;
