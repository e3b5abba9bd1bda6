"""What every test in the browser has."""

from typing import Any

import pytest
from playwright.sync_api import Page


@pytest.fixture(autouse=True)
def no_errors(fresh_demo: None, page: Page) -> Any:
    """Every test has its own data, and also fails on an error in the page."""
    errors: list[str] = []
    page.on("pageerror", lambda e: errors.append(str(e)))
    yield
    assert errors == []
