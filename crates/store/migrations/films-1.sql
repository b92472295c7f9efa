-- Films and their frames, in a file of their own, so that the file with everybody's work stays small to copy.
CREATE TABLE films (
    id INTEGER PRIMARY KEY,
    -- A demo film has a name and no owner.
    name TEXT UNIQUE,
    teacher INTEGER,
    logbook INTEGER,
    title TEXT NOT NULL,
    -- What in it has a known length.
    length TEXT NOT NULL DEFAULT '',
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    -- Times of the frames in s, as JSON.
    times TEXT NOT NULL,
    frames INTEGER NOT NULL,
    whole INTEGER NOT NULL DEFAULT 0,
    created TEXT NOT NULL,
    CHECK ((name IS NOT NULL) + (teacher IS NOT NULL) + (logbook IS NOT NULL) = 1)
) STRICT;

CREATE INDEX films_of_teacher ON films (teacher);
CREATE INDEX films_of_logbook ON films (logbook);

CREATE TABLE frames (
    film INTEGER NOT NULL REFERENCES films (id) ON DELETE CASCADE,
    number INTEGER NOT NULL,
    jpeg BLOB NOT NULL,
    PRIMARY KEY (film, number)
) STRICT;
