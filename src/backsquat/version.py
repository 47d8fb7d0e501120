"""Which version this is: shown in the footer, and written into what is handed out."""

__version__ = "1.0.0"
PRODUCT = f"Back Squat {__version__}"
