"""The application while it runs: the one live flight, its recorder, the aircraft and the database."""
