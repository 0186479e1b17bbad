"""The heart of Jemmon: pure functions and values. No web, no database, no clock, no thread, no file but what is handed in."""
