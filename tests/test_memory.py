"""What is remembered beside values: bounded, and whole under many threads."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from summula.core.memory import Memory, Remembered

SQUARES: Remembered[int, int] = Remembered("squares", most=8)
NAMES: Remembered[str, str | None] = Remembered("names", most=8, of_columns=True)


def test_so_many_of_a_kind_are_remembered_and_nothing_is_worked_out_twice() -> None:
    memory, worked_out = Memory(), []
    for _ in range(2):
        for number in (3, 4):
            assert SQUARES.of(memory, number, lambda number=number: worked_out.append(number) or number**2) == number**2  # type: ignore[misc]
    assert worked_out == [3, 4]
    for number in range(100):
        SQUARES.put(memory, number, number**2)
    assert SQUARES.all(memory) == tuple(number**2 for number in range(92, 100))
    assert NAMES.of(memory, "none", lambda: None) is None and NAMES.has(memory, "none")
    assert memory.of_columns().copy().shelves == {NAMES: {"none": None}}


def test_many_threads_find_what_each_of_them_would_alone() -> None:
    memory = Memory()

    def ask(start: int) -> bool:
        asked = [(start + at) % 23 for at in range(3_000)]
        return all(SQUARES.of(memory, each, lambda each=each: each**2) == each**2 for each in asked)  # type: ignore[misc]

    with ThreadPoolExecutor(8) as pool:
        assert all(pool.map(ask, range(8)))
    assert len(SQUARES.all(memory)) <= 8
