"""An account as one file: taken away, and taken in again."""
