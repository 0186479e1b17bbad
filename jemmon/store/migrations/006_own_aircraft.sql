-- every content that counted for an aircraft, in order, with what was said of it; `aircraft` names the one that counts now
CREATE TABLE versions (
  profile_id TEXT NOT NULL,
  number INTEGER NOT NULL,
  content_hash TEXT NOT NULL REFERENCES profiles (content_hash),
  note TEXT NOT NULL,
  who TEXT NOT NULL,
  saved_utc TEXT NOT NULL,
  PRIMARY KEY (profile_id, number)
) STRICT;
INSERT INTO versions (profile_id, number, content_hash, note, who, saved_utc)
  SELECT profile_id, 1, content_hash, 'As it was when versions began', '', imported_utc FROM aircraft;

-- what is being written and does not count yet; it may be wrong, so it is no profile
CREATE TABLE drafts (
  profile_id TEXT PRIMARY KEY,
  body TEXT NOT NULL,
  saved_utc TEXT NOT NULL
) STRICT;

-- who has held a figure against the handbook; it holds for that figure only, and changes no profile's content
CREATE TABLE signatures (
  profile_id TEXT NOT NULL,
  limit_name TEXT NOT NULL,
  value REAL NOT NULL,
  who TEXT NOT NULL,
  signed_on TEXT NOT NULL,
  PRIMARY KEY (profile_id, limit_name, value)
) STRICT;

-- a photo of the panel, made anew as a JPEG without what the camera wrote into it, and where each control is on it (0 to 1)
CREATE TABLE panels (
  profile_id TEXT PRIMARY KEY,
  jpeg BLOB NOT NULL,
  width INTEGER NOT NULL,
  height INTEGER NOT NULL,
  added_utc TEXT NOT NULL
) STRICT;
CREATE TABLE spots (
  profile_id TEXT NOT NULL,
  control TEXT NOT NULL,
  x REAL NOT NULL CHECK (x BETWEEN 0 AND 1),
  y REAL NOT NULL CHECK (y BETWEEN 0 AND 1),
  PRIMARY KEY (profile_id, control)
) STRICT;

-- a pilot's own items at the end of a list of an aircraft that others fly too
CREATE TABLE additions (
  profile_id TEXT NOT NULL,
  pilot TEXT NOT NULL,
  list_id TEXT NOT NULL,
  items TEXT NOT NULL,
  PRIMARY KEY (profile_id, pilot, list_id)
) STRICT;
