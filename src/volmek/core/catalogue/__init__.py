"""Kinds of device, reading a catalogue, looking up."""
