"""What every test in the browser has."""

from typing import Any

import pytest
from playwright.sync_api import Page


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Two workers drive a browser each, which has processes of its own and is waited for; a third runs the rest meanwhile."""
    for item in items:
        if "browser" in item.path.parts:
            half = "panel" if item.path.stem in ("test_build_prove", "test_circuit", "test_start") else "desk"
            item.add_marker(pytest.mark.xdist_group(half))


@pytest.fixture(autouse=True)
def no_errors(fresh_demo: None, page: Page) -> Any:
    """Every test has its own data, and also fails on an error in the page."""
    errors: list[str] = []
    page.on("pageerror", lambda e: errors.append(str(e)))
    yield
    assert errors == []
