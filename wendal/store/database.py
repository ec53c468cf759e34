"""The connection to the database, and bringing its tables up to date."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine
from sqlalchemy.orm import Session, sessionmaker

__all__ = ["Database"]


class Database:
    """An engine and its sessions.

    folder : in which its files lie, where that is on this machine. answers : s within which it answers.
    """

    def __init__(self, url: str, folder: Path | None = None, answers: int = 10) -> None:
        self.url, self.folder = url, folder
        self.engine = create_engine(
            url,
            pool_pre_ping=True,
            pool_recycle=1800,
            pool_size=8,
            max_overflow=8,
            connect_args={"connect_timeout": 3, "read_timeout": answers, "write_timeout": answers},
        )
        self.sessions: sessionmaker[Session] = sessionmaker(self.engine, expire_on_commit=False)

    def upgrade(self) -> None:
        """Bring the tables to the newest form."""
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).with_name("migrations")))
        with self.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    def close(self) -> None:
        """Let go of all connections."""
        self.engine.dispose()
