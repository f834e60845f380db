"""Light: lamps, walls and bodies; solved once for a space, then asked at any point."""
