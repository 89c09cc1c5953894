"""What happened to a job, when and by whom: entries that only ever follow one another, chained by their hashes.

It shows that nothing was changed or taken out since an anchor was written down elsewhere (the handover sheet). It does not
show that an entry was true when it was made, nor who sat at the keyboard: see ``docs/event-log.md``.
"""
