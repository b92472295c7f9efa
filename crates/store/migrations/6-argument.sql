-- Likely mistakes in a logbook, by kind, as they were after edit number results_seq.
ALTER TABLE standings ADD COLUMN slips TEXT NOT NULL DEFAULT '[]';
