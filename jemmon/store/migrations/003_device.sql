-- where a flight's live needles come from: '' is the simulated engine (or scripted needles), 'device' an instrument on TCP
ALTER TABLE flights ADD COLUMN feed TEXT NOT NULL DEFAULT '';

CREATE TABLE settings (
  name TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT;
