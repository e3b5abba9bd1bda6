"""The installation, worked out once from a document: supply, control source, connection of the motor."""
