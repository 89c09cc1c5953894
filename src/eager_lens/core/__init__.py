"""Everything that can be worked out without a window.

Layers, each standing only on those after it: ``exchange`` (files in and out), ``assess`` (figures and findings of a
job), ``job`` (the document and its edits) and ``catalogue`` (all calculators), the calculation families ``sizing``,
``addressing``, ``recording``, ``power``, ``radio``, ``wiring``, ``optics`` and ``clock``, ``reference`` (tables), and the
small shared modules ``calculator``, ``units``, ``validation`` and ``errors``. Nothing below here imports Qt.
"""
