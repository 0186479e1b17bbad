"""The start of an engine: its state, what is seen of it, the advice for the next one, the record of those made."""
