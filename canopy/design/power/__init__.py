"""Mending what is plugged in where it must not be."""
