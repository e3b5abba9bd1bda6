"""Power and control circuits: generated, simulated, proved and drawn."""
