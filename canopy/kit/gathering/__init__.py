"""The lines of a space's kit, by what they are for."""
