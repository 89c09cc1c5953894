"""Calendars (iCalendar, RFC 5545): schedules and exceptions written, events read as what they could be, and taken over."""
