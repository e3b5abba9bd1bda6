"""The starter document: decisions of a user, nothing computed."""
