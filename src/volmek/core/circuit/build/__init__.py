"""Wire list, stages, continuity tests and trials of a panel."""
