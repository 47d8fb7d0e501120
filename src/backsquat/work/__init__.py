"""What happens, without Flask: operations (writes) and queries (reads), a capability a folder, one-way among themselves."""
