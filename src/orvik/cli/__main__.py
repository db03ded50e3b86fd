"""``python -m orvik.cli`` is ``orvik``."""

import sys

from orvik.cli.command_line import main

sys.exit(main())
