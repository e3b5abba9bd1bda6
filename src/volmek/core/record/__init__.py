"""The record of a starter: what was measured, tripped, changed, is open and falls due, judged against the design."""
