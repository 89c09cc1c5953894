"""Calendars (iCalendar, RFC 5545): events read as what they could be, and taken over as exceptions."""
