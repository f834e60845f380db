"""What goes on by itself beside the server: sources asked and listened to, alerts watched, mail."""
