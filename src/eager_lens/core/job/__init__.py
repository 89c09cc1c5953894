"""The document: what the installer decided, as frozen values; edits that turn one job into the next; its file.

``model`` holds the values, ``edits`` the pure changes, ``file`` reading and writing, ``migrations`` older versions.
"""
