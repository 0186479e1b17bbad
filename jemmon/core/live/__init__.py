"""What the samples of a running flight mean: as events, and as what is to be said at once."""
