"""Whatever is saved, restored and refused in whatever order: the kept document and its revisions stay true."""

import tempfile
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule
from sqlalchemy.orm import Session

from samples import iec
from volmek.core.document.errors import ProblemError
from volmek.core.document.model import parse
from volmek.store.engine import make_engine, upgrade, writer
from volmek.store.repository import (
    StaleVersionError,
    create_board,
    create_starter,
    differing_fields,
    read_starter,
    revisions,
    save_document,
)


class History(RuleBasedStateMachine):
    """A starter with a plain model of it beside."""

    @initialize()
    def make(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.engine = make_engine(Path(self.folder.name) / "h.db")
        upgrade(self.engine)
        self.kept = iec()
        self.version = 1
        self.change = "made"
        self.ended: list[Any] = []
        with Session(writer(self.engine)) as session, session.begin():
            board = create_board(session, "job", "board", "", {})
            create_starter(session, board, parse(iec(tag="other")))
            self.id = create_starter(session, board, parse(self.kept)).id

    def save(self, document: dict[str, Any], version: int) -> None:
        with writer(self.engine).begin() as connection:
            save_document(connection, read_starter(connection, self.id), parse(document), version, "{}")
        before, after = parse(self.kept).to_json(), parse(document).to_json()
        changed = ", ".join(differing_fields(before, after))
        if changed:
            self.version += 1
            if changed != self.change or changed == "overrides":
                self.ended.insert(0, before)
            self.change = changed
        self.kept = document

    @rule(amps=st.floats(12, 17), service=st.sampled_from(["", "fan", "pump"]))
    def change(self, amps: float, service: str) -> None:
        self.save(iec(motor={"rated_current_delta_a": amps}, service=service), self.version)

    @rule(dial=st.one_of(st.none(), st.floats(10, 20)))
    def override(self, dial: float | None) -> None:
        own = [{"role": "short_circuit_device", "dial_a": dial, "reason": "found so"}] if dial else []
        self.save({**self.kept, "overrides": own}, self.version)

    @rule(behind=st.integers(1, 3))
    def be_late(self, behind: int) -> None:
        with pytest.raises(StaleVersionError):
            self.save(iec(service="lost"), self.version - behind)

    @rule()
    def take_a_tag_that_is_taken(self) -> None:
        with pytest.raises(ProblemError):
            self.save({**self.kept, "tag": "other"}, self.version)

    @invariant()
    def what_is_kept_is_the_last_that_was_accepted(self) -> None:
        with Session(self.engine) as session:
            kept = read_starter(session, self.id)
            assert kept.document == parse(self.kept).to_json()
            assert kept.version == self.version
            latest = revisions(session, self.id)
            ended = [r.document for r in latest[1:]]
            assert self.ended[: len(ended)] == ended, "each earlier revision holds the state its change ended with"
            assert latest[-1].change == "made"

    def teardown(self) -> None:
        if hasattr(self, "engine"):
            self.engine.dispose()
            self.folder.cleanup()


TestHistory = History.TestCase
TestHistory.settings = settings(max_examples=12, stateful_step_count=15, deadline=None)


def test_a_starter_that_is_not_there_is_said_so(tmp_path: Path) -> None:
    engine = make_engine(tmp_path / "none.db")
    upgrade(engine)
    with writer(engine).begin() as connection, pytest.raises(LookupError, match="no starter 5"):
        read_starter(connection, 5)
