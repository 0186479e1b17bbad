CREATE TABLE profiles (
  content_hash TEXT PRIMARY KEY,
  profile_id TEXT NOT NULL,
  body TEXT NOT NULL
) STRICT;

CREATE TABLE flights (
  id TEXT PRIMARY KEY,
  profile_hash TEXT NOT NULL REFERENCES profiles (content_hash),
  registration TEXT NOT NULL,
  pilot TEXT NOT NULL,
  title TEXT NOT NULL,
  source TEXT NOT NULL CHECK (source IN ('bench', 'manual', 'file')),
  started_utc TEXT NOT NULL,
  columns TEXT NOT NULL DEFAULT '[]'
) STRICT;

CREATE TABLE events (
  seq INTEGER PRIMARY KEY AUTOINCREMENT,
  flight_id TEXT NOT NULL REFERENCES flights (id),
  id TEXT NOT NULL,
  kind TEXT NOT NULL,
  version INTEGER NOT NULL,
  at_s REAL NOT NULL,
  wall_utc TEXT NOT NULL,
  body TEXT NOT NULL,
  UNIQUE (flight_id, id)
) STRICT;
CREATE INDEX events_of_flight ON events (flight_id, seq);

-- one row a minute of flight; `cells` is a float64 array, rows by columns, the first column being time_s
CREATE TABLE sample_blocks (
  flight_id TEXT NOT NULL REFERENCES flights (id),
  minute INTEGER NOT NULL,
  rows INTEGER NOT NULL,
  cells BLOB NOT NULL,
  PRIMARY KEY (flight_id, minute)
) STRICT;

-- where the simulated engine stood when the open block was last written
CREATE TABLE bench_states (
  flight_id TEXT PRIMARY KEY REFERENCES flights (id),
  at_s REAL NOT NULL,
  body TEXT NOT NULL
) STRICT;

-- a file read in keeps its text, so that it goes out as it came
CREATE TABLE trace_files (
  flight_id TEXT PRIMARY KEY REFERENCES flights (id),
  csv BLOB NOT NULL
) STRICT;
