"""The window.

``start`` makes the application, ``window`` puts the parts together, ``pages`` holds one folder a stage, ``panels`` the
parts that stand beside every page, ``widgets`` pieces that know nothing of a page, ``session`` the current job and its
history (the only thing that pages talk to), ``theme`` every colour, size, font and icon.
"""

from eager_lens.desk import imports

imports.without_source_checks()
