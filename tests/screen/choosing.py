"""Choosing as a hand does: open the list, press the line."""

from __future__ import annotations

from playwright.sync_api import Locator


def choose(field: Locator, line: str) -> None:
    """Open a field's list and press the line of that text."""
    field.click()
    field.page.get_by_role("listbox").get_by_role("option", name=line, exact=True).click()
