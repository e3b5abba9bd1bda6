"""Small simulated stand-ins for devices outside the application."""
