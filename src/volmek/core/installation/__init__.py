"""What stands at the site, worked out once from a document: supply, control source, connection of the motor."""
