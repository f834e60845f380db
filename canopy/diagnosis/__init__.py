"""From what one sees to what it can be: causes ranked by plan and log, the next check, and what to do."""
