"""What every test in the browser has."""

from typing import Any

import pytest
from playwright.sync_api import Page

#: What somebody who has used it before left open: every fold of the plate, the findings, the whole line-up.
OPENED = """
for (const fold of ['more', 'leads', 'supply', 'cable', 'control', 'use', 'around', 'assumed', 'name'])
  if (!localStorage.getItem(`volmek.fold.${fold}`)) localStorage.setItem(`volmek.fold.${fold}`, 'open')
if (!localStorage.getItem('volmek.findings')) localStorage.setItem('volmek.findings', 'open')
if (!localStorage.getItem('volmek.rail')) localStorage.setItem('volmek.rail', '{"elsewhere": false}')
"""


@pytest.fixture(autouse=True)
def no_errors(fresh_demo: None, page: Page) -> Any:
    """Every test has its own data, and also fails on an error in the page."""
    errors: list[str] = []
    page.on("pageerror", lambda e: errors.append(str(e)))
    yield
    assert errors == []


@pytest.fixture(autouse=True)
def opened(request: pytest.FixtureRequest, page: Page) -> None:
    """Folds and lists stand open, unless the test begins as a newcomer does."""
    if "newcomer" not in request.fixturenames:
        page.add_init_script(OPENED)


@pytest.fixture
def newcomer() -> None:
    """Nothing was ever chosen in this browser."""
