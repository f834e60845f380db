"""Trouble rehearsed: what goes wrong, how long the crops have, and what would have warned."""
