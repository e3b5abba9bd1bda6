"""What a user decides about one starter."""
