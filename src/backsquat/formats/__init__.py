"""Open formats: what people have (CSV, XLSX, what they copied from a sheet) read into what is meant by it."""
