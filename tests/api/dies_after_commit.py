"""The real server, made to kill itself between the COMMIT of one certain remark and its answer."""

import os
import signal
from contextlib import contextmanager

from jemmon.cli import main
from jemmon.store.database import Database

DEADLY = "the server dies when this is on the disk"


def install() -> None:
    whole = Database.writing

    @contextmanager
    def writing_then_death(self, *patience):
        with whole(self, *patience) as db:
            yield db
            deadly = db.execute("SELECT 1 FROM events WHERE body LIKE ?", (f"%{DEADLY}%",)).fetchone()
        if deadly:
            os.kill(os.getpid(), signal.SIGKILL)

    Database.writing = writing_then_death


if __name__ == "__main__":
    install()
    main()
