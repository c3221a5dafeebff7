"""Choosing as a hand does: open the list, press the line."""

from __future__ import annotations

from playwright.sync_api import Locator, expect


def choose(field: Locator, line: str) -> None:
    """Open a field's list and press the line of that text."""
    field.click()
    listed = field.page.get_by_role("listbox")
    listed.get_by_role("option", name=line, exact=True).click()
    # Once it is closed the focus comes back to the field.
    expect(listed).to_have_count(0)
