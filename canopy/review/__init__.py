"""What the log teaches: readings held against the plan."""
