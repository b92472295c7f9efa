-- A class may ask the teacher's nod for new names; whoever waits for it since when.
ALTER TABLE classes ADD COLUMN asks INTEGER NOT NULL DEFAULT 0;
ALTER TABLE students ADD COLUMN waits_since INTEGER;

-- What is shown of a session to whoever may end it: when it was begun, in seconds since 1970 (UTC), and in what browser.
ALTER TABLE sessions ADD COLUMN begun INTEGER;
ALTER TABLE sessions ADD COLUMN browser TEXT NOT NULL DEFAULT '';

-- Bytes of what is stored of a logbook, so that nobody fills the disk.
ALTER TABLE standings ADD COLUMN bytes INTEGER NOT NULL DEFAULT 0;
UPDATE standings SET bytes = (SELECT coalesce(sum(length(wish) + length(deed)), 0) FROM edits WHERE edits.logbook = standings.logbook);

-- The latest moment the store has seen, in seconds since 1970 (UTC), so that a clock that jumps is noticed.
CREATE TABLE clock (
    only INTEGER PRIMARY KEY CHECK (only = 1),
    at INTEGER NOT NULL
) STRICT;
