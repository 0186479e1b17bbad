"""Lists worked through: what is done, set aside, timed, counted, due again; what nobody has read; the briefing."""
