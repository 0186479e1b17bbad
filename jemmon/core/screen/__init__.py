"""What the screens show, as values."""
