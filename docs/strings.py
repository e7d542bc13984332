"""All sentences, labels and names that people read, as they stand in the code; against an earlier revision where one
is named: `python docs/strings.py [REVISION]` prints what was said and what is said now, file by file."""

from __future__ import annotations

import ast
import subprocess
import sys
from collections.abc import Iterator
from difflib import SequenceMatcher
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SOURCE = "src/summula"
_NO_LANGUAGE = ("\\", "\n ", "<svg", "(?", "xmlns", "::")


def strings_in(text: str) -> list[str]:
    """The strings of a module in their order; of a formatted one the parts that are worked out stand as {…}."""
    tree = ast.parse(text)
    passed_over = set(_unread(tree))
    return [said for node, said in _said(tree, passed_over) if _is_read(said)]


def _said(node: ast.AST, passed_over: set[int]) -> Iterator[tuple[ast.AST, str]]:
    if id(node) in passed_over:
        return
    if isinstance(node, ast.JoinedStr):
        parts = (each.value if isinstance(each, ast.Constant) else "{…}" for each in node.values)
        yield node, "".join(str(part) for part in parts)
        for value in node.values:
            if isinstance(value, ast.FormattedValue):
                yield from _said(value.value, passed_over)
    elif isinstance(node, ast.Constant):
        if isinstance(node.value, str):
            yield node, node.value
    else:
        for child in ast.iter_child_nodes(node):
            yield from _said(child, passed_over)


def _unread(tree: ast.Module) -> Iterator[int]:
    """Docstrings, types, and what is passed to `Literal`."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
            first = node.body[0] if node.body else None
            if isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant):
                yield id(first.value)
        if isinstance(node, ast.AnnAssign | ast.arg) and node.annotation is not None:
            yield id(node.annotation)
        if isinstance(node, ast.FunctionDef) and node.returns is not None:
            yield id(node.returns)
        if isinstance(node, ast.Subscript) and isinstance(node.value, ast.Name) and node.value.id == "Literal":
            yield id(node)


def _is_read(said: str) -> bool:
    """Whether a string is language: two words, or one with a capital; no pattern, path or name of a key."""
    letters = said.replace("{…}", "").strip()
    if not any(each.isalpha() for each in letters) or any(sign in said for sign in _NO_LANGUAGE):
        return False
    return " " in letters or letters[:1].isupper()


def now() -> dict[str, list[str]]:
    """The strings of each module, by its place."""
    places = sorted((ROOT / SOURCE).rglob("*.py"))
    return {str(path.relative_to(ROOT)): strings_in(path.read_text("utf-8")) for path in places}


def before(revision: str) -> dict[str, list[str]]:
    """The same as they stood in a revision."""

    def git(*words: str) -> str:
        return subprocess.run(["git", *words], cwd=ROOT, capture_output=True, text=True, check=True).stdout

    listed = git("ls-tree", "-r", "--name-only", revision, SOURCE).splitlines()
    places = [each for each in listed if each.endswith(".py")]
    return {place: strings_in(git("show", f"{revision}:{place}")) for place in places}


def changes(old: list[str], new: list[str]) -> Iterator[tuple[str, str]]:
    """What was said beside what is said instead; "" where there is nothing on one side."""
    for sort, first, last, begin, end in SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if sort == "equal":
            continue
        gone, come = old[first:last], new[begin:end]
        for at in range(max(len(gone), len(come))):
            yield (gone[at] if at < len(gone) else ""), (come[at] if at < len(come) else "")


def main() -> None:
    current = now()
    if len(sys.argv) < 2:
        for place, strings in current.items():
            print(f"\n{place}")
            for each in strings:
                print(f"    {each}")
        return
    earlier = before(sys.argv[1])
    for place in sorted(current.keys() | earlier.keys()):
        pairs = list(changes(earlier.get(place, []), current.get(place, [])))
        if pairs:
            print(f"\n{place}")
        for was, said in pairs:
            print(f"  - {was}\n  + {said}")


if __name__ == "__main__":
    main()
