"""Circuits as drawings."""
