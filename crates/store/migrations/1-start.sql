-- People and classes.
CREATE TABLE teachers (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    password_hash TEXT NOT NULL,
    created TEXT NOT NULL
) STRICT;

CREATE TABLE classes (
    id INTEGER PRIMARY KEY,
    teacher INTEGER NOT NULL REFERENCES teachers (id),
    name TEXT NOT NULL,
    code TEXT NOT NULL UNIQUE,
    created TEXT NOT NULL
) STRICT;

CREATE TABLE students (
    id INTEGER PRIMARY KEY,
    class INTEGER NOT NULL REFERENCES classes (id),
    name TEXT NOT NULL COLLATE NOCASE,
    pin_hash TEXT NOT NULL,
    created TEXT NOT NULL,
    UNIQUE (class, name)
) STRICT;

-- A cookie's token is kept as its hash only.
CREATE TABLE sessions (
    token_hash TEXT PRIMARY KEY,
    teacher INTEGER REFERENCES teachers (id),
    student INTEGER REFERENCES students (id),
    expires TEXT NOT NULL,
    CHECK ((teacher IS NULL) <> (student IS NULL))
) STRICT;

-- Lab sheets. A shipped sheet has a key and no owner; a teacher's copy has an owner. Texts are versions,
-- so that a logbook keeps the sheet it was begun with.
CREATE TABLE sheets (
    id INTEGER PRIMARY KEY,
    owner INTEGER REFERENCES teachers (id),
    key TEXT UNIQUE,
    CHECK ((owner IS NULL) <> (key IS NULL))
) STRICT;

CREATE TABLE sheet_versions (
    id INTEGER PRIMARY KEY,
    sheet INTEGER NOT NULL REFERENCES sheets (id),
    source TEXT NOT NULL,
    created TEXT NOT NULL
) STRICT;

CREATE INDEX sheet_versions_by_sheet ON sheet_versions (sheet, id);

CREATE TABLE assignments (
    id INTEGER PRIMARY KEY,
    class INTEGER NOT NULL REFERENCES classes (id),
    sheet INTEGER NOT NULL REFERENCES sheets (id),
    created TEXT NOT NULL,
    UNIQUE (class, sheet)
) STRICT;

-- A logbook is what it started with and the sum of its edits. `start` is what the sheet and the seed gave at the time.
CREATE TABLE logbooks (
    id INTEGER PRIMARY KEY,
    assignment INTEGER NOT NULL REFERENCES assignments (id),
    version INTEGER NOT NULL REFERENCES sheet_versions (id),
    seed INTEGER NOT NULL,
    start TEXT NOT NULL,
    partner_code TEXT NOT NULL,
    created TEXT NOT NULL,
    UNIQUE (assignment, partner_code)
) STRICT;

CREATE TABLE members (
    assignment INTEGER NOT NULL REFERENCES assignments (id),
    student INTEGER NOT NULL REFERENCES students (id),
    logbook INTEGER NOT NULL REFERENCES logbooks (id),
    PRIMARY KEY (assignment, student)
) STRICT;

CREATE INDEX members_by_logbook ON members (logbook);
CREATE INDEX members_by_student ON members (student);

-- What was asked for, kept to be read and never judged again; and what was changed, done whenever the logbook is opened.
-- A token belongs to one edit, so that one that is sent twice is done once. `at` is in seconds since 1970 (UTC).
CREATE TABLE edits (
    logbook INTEGER NOT NULL REFERENCES logbooks (id),
    seq INTEGER NOT NULL,
    at INTEGER NOT NULL,
    student INTEGER REFERENCES students (id),
    teacher INTEGER REFERENCES teachers (id),
    token TEXT,
    wish TEXT NOT NULL,
    deed TEXT NOT NULL,
    PRIMARY KEY (logbook, seq),
    UNIQUE (logbook, token),
    CHECK ((student IS NULL) <> (teacher IS NULL))
) STRICT, WITHOUT ROWID;

-- A logbook at one of its edits, so that opening it need not begin with the first. Nothing is lost when a snapshot is.
CREATE TABLE snapshots (
    logbook INTEGER PRIMARY KEY REFERENCES logbooks (id),
    seq INTEGER NOT NULL,
    content TEXT NOT NULL
) STRICT;

-- How far each logbook is, for whatever looks at many of them. Written with each edit; `results` as soon as they are worked
-- out, which `results_seq` tells.
CREATE TABLE standings (
    logbook INTEGER PRIMARY KEY REFERENCES logbooks (id),
    seq INTEGER NOT NULL,
    at INTEGER NOT NULL,
    step TEXT NOT NULL,
    runs INTEGER NOT NULL,
    trials INTEGER NOT NULL,
    row_count INTEGER NOT NULL,
    handed_in INTEGER,
    results TEXT NOT NULL DEFAULT '[]',
    results_seq INTEGER NOT NULL DEFAULT 0
) STRICT;
