"""Entry for ``python -m eager_lens``."""

import sys

from eager_lens.main import main

sys.exit(main())
