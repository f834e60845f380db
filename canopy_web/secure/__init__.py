"""HTTPS on the home network: certificates of this server's own, and what takes encrypted connections in."""
