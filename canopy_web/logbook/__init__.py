"""Facts beside the plans: what meters read. Undo of a plan never touches them."""
