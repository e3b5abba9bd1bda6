"""What the docstrings of the rooms that compute must have; that their examples are true is tested where they stand."""

import ast
from collections.abc import Iterator
from pathlib import Path

import pytest

CORE = Path(__file__).parents[2] / "src" / "volmek" / "core"
ROOMS = ("physics", "devices", "coordination", "circuit/kernel")


def public_functions() -> Iterator[tuple[str, ast.FunctionDef]]:
    for room in ROOMS:
        for file in sorted((CORE / room).glob("*.py")):
            for node in ast.parse(file.read_text()).body:
                if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                    yield f"{room}/{file.name}:{node.name}", node


@pytest.mark.parametrize(("name", "node"), list(public_functions()), ids=lambda x: x if isinstance(x, str) else "")
def test_a_public_function_says_its_parameters_and_shows_an_example(name: str, node: ast.FunctionDef) -> None:
    doc = ast.get_docstring(node) or ""
    assert "Examples\n--------\n>>> " in doc, name
    if node.args.args or node.args.kwonlyargs:
        assert "Parameters\n----------\n" in doc, name
