"""How other devices reach the server: TLS before it, the workshop's own authority, the page that hands out its certificate."""
