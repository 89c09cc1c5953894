"""The check of a site: what looks at every device of the job, real or stand-in, and tells what it read.

It runs in a process of its own (see ``core.apart``), which may be put into the network of a site that exists here only;
what devices answer is read there, and whatever goes wrong in reading ends with it.
"""
