"""Backup of the whole database, and a job as one file, over the page."""

import tempfile
from datetime import UTC, datetime
from pathlib import Path

from flask import Response, current_app, request
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import Engine, select
from werkzeug.exceptions import NotFound

from volmek.core.document.errors import Problem, ProblemError
from volmek.store.jobs import export_job, file_name, import_job, read_job
from volmek.store.keeping import DatabaseError, backup
from volmek.store.models import Job
from volmek.web.common import NOT_FOUND, REFUSED, download, new_session, operation_id, writing
from volmek.web.schemas import Output

bp = APIBlueprint("keeping", __name__, url_prefix="/api", operation_id_callback=operation_id)
MAXIMUM_JOB = 64 * 1024 * 1024
DATABASE = {"content": {"application/vnd.sqlite3": {"schema": {"type": "string", "format": "binary"}}}}
JOB_FILE: dict[str, dict[str, dict[str, str]]] = {"content": {"application/json": {}}}


class JobQuery(BaseModel):
    """Name of a job."""

    name: str = Field(min_length=1, max_length=120)


class JobIn(BaseModel):
    """A job file as text, and another name for the job where its own is taken."""

    model_config = ConfigDict(extra="forbid")

    text: str = Field(max_length=MAXIMUM_JOB)
    name: str = Field(default="", max_length=120)


class JobOut(Output):
    """A job that was imported."""

    name: str
    boards: int
    starters: int
    entries: int


@bp.before_request
def _room() -> None:
    """A job with its records may be large."""
    if request.endpoint == "keeping.import_whole_job":
        request.max_content_length = MAXIMUM_JOB + 1024


@bp.get("/backup", responses={200: DATABASE, **REFUSED})
def make_backup() -> Response:
    """A copy of the whole database as of now, to be kept elsewhere."""
    engine: Engine = current_app.extensions["engine"]
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "backup.db"
        try:
            if engine.dialect.name != "sqlite":
                raise DatabaseError(
                    "This database is on a server of its own: whoever runs that makes its backups (`pg_dump`), or `volmek copy` makes a file of it. A job can be saved as a file on its board."
                )
            backup(Path(str(engine.url.database)), copy)
        except DatabaseError as error:
            raise ProblemError([Problem("request", str(error))]) from None
        data = copy.read_bytes()
    return download(data, f"volmek-{datetime.now(UTC):%Y-%m-%d-%H%M}.db", "application/vnd.sqlite3")


@bp.get("/jobs/file", responses={200: JOB_FILE, **NOT_FOUND})
def job_file(query: JobQuery) -> Response:
    """A whole job as one file: boards, starters, history, records, seals, catalogues."""
    with new_session() as session:
        job = session.scalar(select(Job).where(Job.name == query.name))
        if job is None:
            raise NotFound(f"there is no job {query.name!r}")
        return download(export_job(session, job).encode(), file_name(job.name), "application/json")


@bp.post("/jobs/import", responses={201: JobOut, **REFUSED})
def import_whole_job(body: JobIn) -> tuple[JobOut, int]:
    """Put a job file into the database, all of it or nothing; it is checked before anything is locked."""
    file = read_job(body.text)
    with writing() as session:
        job = import_job(session, file, body.name.strip())
        starters = [s for b in file.boards for s in b.starters]
        return JobOut(name=job.name, boards=len(file.boards), starters=len(starters), entries=sum(len(s.record) for s in starters)), 201  # fmt: skip
