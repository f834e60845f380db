"""The web application."""

import os

# Matrices here are too small to share out among processors: a second one would only spin beside the first.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
