"""Handing out: the log, a sheet, the calendar, the library and the whole squad as files in open formats."""
