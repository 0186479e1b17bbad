"""SQLite and plain SQL: flights, events, samples, profiles. Values in, values out; the caller owns the transaction."""
