"""What people see: a folder a screen. Flask lives here and nowhere below."""
