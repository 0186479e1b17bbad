-- aircraft whose profile was read in by the owner: the newest content counts, what it was before stays in `profiles`
CREATE TABLE aircraft (
  profile_id TEXT PRIMARY KEY,
  content_hash TEXT NOT NULL REFERENCES profiles (content_hash),
  imported_utc TEXT NOT NULL
) STRICT;
