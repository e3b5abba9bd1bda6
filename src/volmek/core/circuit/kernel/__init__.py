"""Behaviour of a circuit: engine, simulation, power network."""
