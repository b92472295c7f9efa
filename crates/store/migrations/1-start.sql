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

-- A logbook is the sum of its edits; handed_in repeats what the last of them say, for the lists.
CREATE TABLE logbooks (
    id INTEGER PRIMARY KEY,
    assignment INTEGER NOT NULL REFERENCES assignments (id),
    version INTEGER NOT NULL REFERENCES sheet_versions (id),
    seed INTEGER NOT NULL,
    partner_code TEXT NOT NULL,
    handed_in TEXT,
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

CREATE TABLE edits (
    logbook INTEGER NOT NULL REFERENCES logbooks (id),
    seq INTEGER NOT NULL,
    at TEXT NOT NULL,
    author TEXT NOT NULL,
    edit TEXT NOT NULL,
    PRIMARY KEY (logbook, seq)
) STRICT, WITHOUT ROWID;
