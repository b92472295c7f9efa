-- Wrong tries at a secret, counted before the secret is looked at. Rows are for people that exist, for devices they have signed in from,
-- and for a bounded number of drawers for names that do not exist; so their number is bounded. `at` is in seconds since 1970 (UTC).
CREATE TABLE tries (
    key TEXT PRIMARY KEY,
    wrong INTEGER NOT NULL,
    at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- Devices from which somebody has signed in before, the newest few of each person.
CREATE TABLE devices (
    token_hash TEXT NOT NULL,
    teacher INTEGER REFERENCES teachers (id),
    student INTEGER REFERENCES students (id),
    seen INTEGER NOT NULL,
    CHECK ((teacher IS NULL) <> (student IS NULL))
) STRICT;

CREATE UNIQUE INDEX devices_by_student ON devices (student, token_hash) WHERE student IS NOT NULL;
CREATE UNIQUE INDEX devices_by_teacher ON devices (teacher, token_hash) WHERE teacher IS NOT NULL;

-- A partner code is made when somebody is to be let in, and ends soon or with that.
CREATE TABLE partner_codes (
    logbook INTEGER PRIMARY KEY REFERENCES logbooks (id),
    code TEXT NOT NULL UNIQUE,
    until INTEGER NOT NULL
) STRICT;

-- Whoever has left a class stays as the author of what was done; a class that is closed stays with its work.
ALTER TABLE students ADD COLUMN left_at INTEGER;
ALTER TABLE classes ADD COLUMN closed_at INTEGER;

-- Links with which another teacher can make an account, each once.
CREATE TABLE invitations (
    token_hash TEXT PRIMARY KEY,
    by INTEGER NOT NULL REFERENCES teachers (id),
    until INTEGER NOT NULL
) STRICT;
