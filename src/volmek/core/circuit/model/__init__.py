"""The parts of a circuit: notation and netlist."""
