"""From the rating plate and the supply to connection and currents."""
