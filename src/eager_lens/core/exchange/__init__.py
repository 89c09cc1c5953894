"""Files in and out, in open formats: camera lists (CSV, XLSX), tables, and the handover sheets (HTML, PDF).

``table_in`` and ``camera_import`` read, ``table_out`` writes tables, ``handover`` gathers the sheets as plain records
that ``html`` and ``pdf`` only lay out, ``convert`` goes from file to file.
"""
