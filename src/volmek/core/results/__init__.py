"""What the core answers with: figures, findings, drawings as geometry."""
