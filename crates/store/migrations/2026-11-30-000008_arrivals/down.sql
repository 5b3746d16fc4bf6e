DROP INDEX revisions_made_at;
