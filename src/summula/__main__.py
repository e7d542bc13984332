"""`python -m summula`."""

import sys

from summula.cli import main

sys.exit(main())
