"""Where samples come from. One small interface: a feed calls `on_sample(Sample)` in order of time, and stops when told."""
