"""The trainer's pages: scenarios to be played, and the best results of each person."""
