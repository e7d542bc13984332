"""`summula find`: what the search line of the desk would offer."""

from __future__ import annotations

import argparse


def find_words(options: argparse.Namespace) -> int:
    """Print what is found, a line each: name, hint and keys, with tabs between. 1 where nothing has all the words."""
    from summula.core.finding.matching import find
    from summula.core.folio.file import open_folio
    from summula.demo.folio import demo_folio
    from summula.desk.finding.catalogue import everything
    from summula.desk.windowactions import action_words

    folio = (open_folio(options.folio) if options.folio is not None else demo_folio()).folio
    found = find(options.query, everything(folio, action_words()), options.most)
    if found.near:
        what = f"“{options.query}”"
        print(f"Nothing has all of {what}. Near:" if found.entries else f"Nothing found for {what}.")
    for each in found.entries:
        print("\t".join((each.name, each.hint, each.keys)).rstrip("\t"))
    return int(found.near)
