"""Results of the core: figures, findings, drawings as geometry."""
