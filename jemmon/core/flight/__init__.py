"""A flight as a list of events, and the state that follows from them."""
