"""Projections for pages and papers: no rule of their own."""
