"""Reading panel meters over Modbus TCP."""
