"""Breaker, contactor and relay against each other."""
