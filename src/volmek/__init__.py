"""Volmek: sizes, sets and proves motor starters, and keeps the record."""
