"""Open formats that are written: sheets as plain records, laid out as HTML and PDF; tables, calendars."""
