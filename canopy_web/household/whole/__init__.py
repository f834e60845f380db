"""The whole kit: asked for in a few answers, worked out while one looks on, made a plan of with one click."""
