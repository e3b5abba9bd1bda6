"""The web shell: JSON API and the built front end."""
