-- Why a file of the drop folder was not taken, and when that was found; none for one that was taken.
ALTER TABLE delivered ADD COLUMN refused TEXT;
ALTER TABLE delivered ADD COLUMN noted_at TIMESTAMPTZ NOT NULL DEFAULT now();
