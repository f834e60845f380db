"""Photographs as measurements: a picture from above, laid flat; leaves told from ground; their colour."""
