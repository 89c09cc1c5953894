"""The open protocol (IEC 62676-2-31 and -32): SOAP 1.2 over HTTP or HTTPS, as a client of it reads devices.

``names`` holds what stands on the wire; ``xml`` and ``soap`` write requests and read answers that may be broken or hostile;
``conversation`` asks one device and logs in once; each service has a module; ``reading`` goes through them.
"""
