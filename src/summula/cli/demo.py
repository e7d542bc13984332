"""Opening the desk, and the demo."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from summula.core.refusal import Refusal


def open_desk(options: argparse.Namespace) -> int:
    from summula.desk.app import run

    return run(options.file)


def open_demo(options: argparse.Namespace) -> int:
    if options.next_month:
        return _next_month(options.files)
    if options.feed is not None:
        return _feed(options)
    if options.files is not None:
        from summula.demo.files import write_files

        try:
            written = write_files(options.files)
        except OSError as fault:
            raise Refusal(
                f"'{options.files}' could not be written ({fault.strerror or fault})", "choose another folder"
            ) from None
        print("\n".join(str(path) for path in written))
        return 0
    if options.folio is not None:
        from summula.core.folio.file import save_folio
        from summula.demo.folio import demo_folio

        beside = options.folio.resolve().parent
        opened = demo_folio(beside if (beside / "sailings.csv").exists() else None)
        save_folio(options.folio, opened.folio, opened.tables)
        return 0
    from summula.desk.app import run_demo

    return run_demo()


def _next_month(folder: Path | None) -> int:
    from summula.demo.files import add_next_month
    from summula.demo.ready import demo_folder

    folder = folder or demo_folder()
    try:
        rows, last = add_next_month(folder)
    except OSError as fault:
        raise Refusal(f"'{folder}' could not be written ({fault.strerror or fault})", "choose another folder") from None
    print(f"{rows:,} rows up to {last:%d %B %Y} are in {folder / 'sailings.csv'} now")
    return 0


def _feed(options: argparse.Namespace) -> int:
    from summula.demo.feed import feed

    if not 0.05 <= options.every <= 3600 or (options.times is not None and options.times < 1):
        raise Refusal("this interval is not possible", "write --every 3, and --times 10 or none")
    try:
        feed(options.feed, options.every, options.times, lambda words: print(words, flush=True))
    except KeyboardInterrupt:
        print("stopped", file=sys.stderr)
    except OSError as fault:
        wrong = f"'{options.feed}' could not be written ({fault.strerror or fault})"
        raise Refusal(wrong, "choose another folder") from None
    return 0
