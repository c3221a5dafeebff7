"""`python -m lucernis.core` prints the page of checks, for docs/checks.md."""

import sys

from lucernis.core.codes import checks_page

if __name__ == "__main__":
    sys.stdout.write(checks_page())
