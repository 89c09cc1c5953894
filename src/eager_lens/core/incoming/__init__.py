"""What comes in, in open formats: camera lists and tables (CSV, XLSX), price lists, calendars."""
