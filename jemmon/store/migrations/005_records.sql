-- what a flight was, whatever made its samples; practice and real flights are never mixed in a trend
ALTER TABLE flights ADD COLUMN kind TEXT NOT NULL DEFAULT 'practice'
  CHECK (kind IN ('practice', 'by_hand', 'instrument', 'file', 'demo', 'drill'));
UPDATE flights SET kind = CASE
  WHEN id LIKE 'demo-%' THEN 'demo'
  WHEN source = 'file' THEN 'file'
  WHEN source = 'manual' THEN 'by_hand'
  WHEN feed = 'device' THEN 'instrument'
  ELSE 'practice' END;
-- since when a flight is out of the records; it is removed for good on the page of settings only
ALTER TABLE flights ADD COLUMN hidden_utc TEXT;
ALTER TABLE flights ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE flight_summaries ADD COLUMN length_s REAL NOT NULL DEFAULT 0;
UPDATE flight_summaries SET length_s = coalesce(
  (SELECT max(at_s) FROM events WHERE events.flight_id = flight_summaries.flight_id), 0);
-- the magneto drops of each engine, as JSON: one object an engine
ALTER TABLE flight_summaries ADD COLUMN drops TEXT NOT NULL DEFAULT '[]';
CREATE INDEX flights_by_kind ON flights (registration, kind, started_utc);
