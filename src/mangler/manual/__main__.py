"""`python -m mangler.manual > docs/manual.md`"""

from __future__ import annotations

import sys

from mangler.manual.pages import whole

sys.stdout.write(whole())
