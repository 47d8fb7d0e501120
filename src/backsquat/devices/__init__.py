"""Sensors beside the bar: an open line protocol, who listens to it, and stand-ins that speak it (docs/DEVICES.md)."""
