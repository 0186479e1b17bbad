-- what a list of flights shows of each, kept with its last event so that nothing is folded to show a list
CREATE TABLE flight_summaries (
  flight_id TEXT PRIMARY KEY REFERENCES flights (id),
  ended INTEGER NOT NULL,
  findings INTEGER NOT NULL,
  verdict TEXT,
  drop_left_rpm REAL,
  drop_right_rpm REAL,
  last_seq INTEGER NOT NULL
) STRICT;
CREATE INDEX flights_of_aircraft ON flights (registration, started_utc);
CREATE INDEX flights_by_day ON flights (started_utc, id);
CREATE INDEX events_of_kind ON events (flight_id, kind);
