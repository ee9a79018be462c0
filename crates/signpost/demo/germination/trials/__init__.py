"""Reading what the lab sends."""
