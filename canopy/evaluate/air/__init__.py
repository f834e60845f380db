"""Air held against plants, lamps and room: ways of air at work, their margins and remedies, and how they are built."""
