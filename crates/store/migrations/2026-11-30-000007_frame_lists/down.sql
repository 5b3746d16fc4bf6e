-- Revisions name these lists: without them their frames would be lost.
DO $$ BEGIN
    IF EXISTS (SELECT 1 FROM frame_lists) THEN
        RAISE EXCEPTION 'revisions name frame lists, which an older build cannot read';
    END IF;
END $$;
DROP TABLE frame_lists;
