-- A sheet that is being put together: its texts, one a change, and the one that is shown, so that changes can be taken back.
CREATE TABLE drafts (
    sheet INTEGER PRIMARY KEY REFERENCES sheets (id) ON DELETE CASCADE,
    step INTEGER NOT NULL
) STRICT;

CREATE TABLE draft_steps (
    sheet INTEGER NOT NULL REFERENCES sheets (id) ON DELETE CASCADE,
    step INTEGER NOT NULL,
    source TEXT NOT NULL,
    PRIMARY KEY (sheet, step)
) STRICT, WITHOUT ROWID;

-- A text that a teacher only tried as a student would meet it; it is in force nowhere.
ALTER TABLE sheet_versions ADD COLUMN trial INTEGER NOT NULL DEFAULT 0;

-- What a logbook was grown by, in order: later texts of its sheet, whose questions, texts and criteria it has beside what it was begun with.
CREATE TABLE growths (
    logbook INTEGER NOT NULL REFERENCES logbooks (id) ON DELETE CASCADE,
    version INTEGER NOT NULL REFERENCES sheet_versions (id),
    PRIMARY KEY (logbook, version)
) STRICT, WITHOUT ROWID;

-- The logbooks a teacher has for trying things out stand in a class of their own, which has no students and is in no list.
ALTER TABLE classes ADD COLUMN own INTEGER NOT NULL DEFAULT 0;
CREATE UNIQUE INDEX own_class_of_teacher ON classes (teacher) WHERE own = 1;

-- Whether the students of a class may go to the free bench.
ALTER TABLE classes ADD COLUMN free_bench INTEGER NOT NULL DEFAULT 0;

-- What a teacher asks of a class in front of it, at the teacher's own bench: a sketch of a curve against time, or a pick among shapes. Axes in the
-- unit of the channel, times in s; `closed` since when nobody answers any more.
CREATE TABLE asks (
    id INTEGER PRIMARY KEY,
    class INTEGER NOT NULL REFERENCES classes (id),
    logbook INTEGER NOT NULL REFERENCES logbooks (id) ON DELETE CASCADE,
    channel TEXT NOT NULL,
    low REAL NOT NULL,
    high REAL NOT NULL,
    duration REAL NOT NULL,
    pick INTEGER NOT NULL,
    asked INTEGER NOT NULL,
    closed INTEGER
) STRICT;

CREATE INDEX asks_by_class ON asks (class, id);

-- What a student answered: the points of a sketch as JSON, or the name of a shape.
CREATE TABLE forecasts (
    ask INTEGER NOT NULL REFERENCES asks (id) ON DELETE CASCADE,
    student INTEGER NOT NULL REFERENCES students (id),
    answer TEXT NOT NULL,
    at INTEGER NOT NULL,
    PRIMARY KEY (ask, student)
) STRICT, WITHOUT ROWID;
