"""A second, simple checker of proofs: it shares nothing with the prover."""
