-- the score of a flown drill, made once when its debrief is first asked for
CREATE TABLE drill_scores (
  flight_id TEXT PRIMARY KEY REFERENCES flights (id),
  drill TEXT NOT NULL,
  pilot TEXT NOT NULL,
  flown_utc TEXT NOT NULL,
  total INTEGER NOT NULL,
  by_skill TEXT NOT NULL,
  fact TEXT NOT NULL
) STRICT;
CREATE INDEX drill_scores_of_pilot ON drill_scores (pilot, flown_utc);
