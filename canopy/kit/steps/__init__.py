"""The steps of a build, by topic."""
