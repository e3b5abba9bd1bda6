"""The trade: pure computation, no interface, no file and no network access."""
