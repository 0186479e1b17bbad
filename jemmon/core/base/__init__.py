"""What knows no aircraft: errors, units, figures inside sentences, the air and its weather."""
