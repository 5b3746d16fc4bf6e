DROP TABLE job_frames;
DROP TABLE jobs;
DROP TABLE rendered;
