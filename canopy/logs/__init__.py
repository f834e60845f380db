"""What meters, hands and cameras say about a plan: facts, which stand beside it and are never undone with it."""
