"""Ways out of a climate that does not suit."""
