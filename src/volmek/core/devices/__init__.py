"""One module per kind of device; each sizes, picks, sets and judges its own."""
