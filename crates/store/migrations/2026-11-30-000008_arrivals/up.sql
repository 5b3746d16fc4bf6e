-- Servers look every second for what arrived at others.
CREATE INDEX revisions_made_at ON revisions (made_at);
