-- How many questions the sheet of a logbook asks, how many of them are answered, and how many rightly as far as the program can tell.
ALTER TABLE standings ADD COLUMN questions INTEGER NOT NULL DEFAULT 0;
ALTER TABLE standings ADD COLUMN answered INTEGER NOT NULL DEFAULT 0;
ALTER TABLE standings ADD COLUMN answered_right INTEGER NOT NULL DEFAULT 0;

-- The step whose stamp is asked for, and since when, in seconds since 1970 (UTC).
ALTER TABLE standings ADD COLUMN stamp_step TEXT;
ALTER TABLE standings ADD COLUMN stamp_asked INTEGER;

-- The step of the work an edit belongs to, for whoever watches a room; none for what belongs to no step.
ALTER TABLE edits ADD COLUMN step TEXT;

-- A lab of a class: by when it is due (a date), when it was taken back, when its marks were given out, and whether the students see the class
-- pool, with or without names.
ALTER TABLE assignments ADD COLUMN due TEXT;
ALTER TABLE assignments ADD COLUMN taken_back INTEGER;
ALTER TABLE assignments ADD COLUMN marks_given INTEGER;
ALTER TABLE assignments ADD COLUMN pool TEXT NOT NULL DEFAULT 'closed' CHECK (pool IN ('closed', 'nameless', 'named'));

-- What the teacher decided, criterion by criterion: the place of the level among the sheet's, and its points.
CREATE TABLE marks (
    logbook INTEGER NOT NULL REFERENCES logbooks (id) ON DELETE CASCADE,
    criterion TEXT NOT NULL,
    level INTEGER NOT NULL,
    points REAL NOT NULL,
    at INTEGER NOT NULL,
    PRIMARY KEY (logbook, criterion)
) STRICT;
