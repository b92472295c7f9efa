-- The last number a film had: a number that was deleted is never given again, for logbooks may still name it.
CREATE TABLE last_film (
    only INTEGER PRIMARY KEY CHECK (only = 1),
    id INTEGER NOT NULL
) STRICT;

INSERT INTO last_film (only, id) SELECT 1, coalesce(max(id), 0) FROM films;

-- Bytes of a film's frames.
ALTER TABLE films ADD COLUMN bytes INTEGER NOT NULL DEFAULT 0;
UPDATE films SET bytes = (SELECT coalesce(sum(length(jpeg)), 0) FROM frames WHERE frames.film = films.id);
