"""`python -m lucernis.core FOLDER` writes the pages of checks, for docs/checks."""

import sys
from pathlib import Path

from lucernis.core.checks.codes import checks_pages

if __name__ == "__main__":
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for old in folder.glob("*.md"):
        old.unlink()
    for name, text in checks_pages().items():
        (folder / name).write_text(text, encoding="utf-8")
