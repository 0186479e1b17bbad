"""RPM by ear: from the sound of an engine and a needle that was read once. Knows no judgement."""
