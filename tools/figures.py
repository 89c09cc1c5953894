"""``./eager-lens figures``: the structure in figures, and docs/architecture.md drawn from the imports themselves.

Figures: length of classes and functions, import cycles, arrows that lead upward, what share of the code is tests. With
``--write`` the drawing of the rooms is written; a test says when it has gone stale.
"""

from __future__ import annotations

import argparse
import ast
import statistics
import sys
import tomllib
from collections import defaultdict
from graphlib import CycleError, TopologicalSorter
from pathlib import Path
from typing import NamedTuple

import grimp

ROOT = Path(__file__).resolve().parents[1]
SOURCE, TESTS, TOOLS = ROOT / "src", ROOT / "tests", ROOT / "tools"
DRAWING = ROOT / "docs" / "architecture.md"
BEGIN, END = "<!-- drawn from the imports: ./eager-lens figures --write -->", "<!-- end of the drawing -->"

LARGE_CLASS, LONG_FUNCTION = 420, 60
"""Lines from which a class or function is worth a look: smoke, not a wall. One that is one thing may be longer, and
nothing is moved out of it to come under a figure."""


class Definition(NamedTuple):
    """A class or function: where it stands and how many lines it has."""

    where: str
    lines: int


def python_files(folder: Path) -> list[Path]:
    """All modules below a folder."""
    return sorted(path for path in folder.rglob("*.py") if "__pycache__" not in path.parts)


def definitions(folder: Path) -> tuple[list[Definition], list[Definition]]:
    """Classes and functions below a folder, small ones first. A function's lines are those of its body, without its text."""
    classes: list[Definition] = []
    functions: list[Definition] = []
    for path in python_files(folder):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
                body = node.body[1:] if ast.get_docstring(node) is not None and len(node.body) > 1 else node.body
                is_class = isinstance(node, ast.ClassDef)
                first = node.lineno if is_class else body[0].lineno
                where = f"{path.relative_to(ROOT)}:{node.lineno} {node.name}"
                (classes if is_class else functions).append(Definition(where, (node.end_lineno or 0) - first + 1))
    return sorted(classes, key=lambda one: one.lines), sorted(functions, key=lambda one: one.lines)


def lines_of(folder: Path) -> int:
    """Lines of Python below a folder."""
    return sum(path.read_text("utf-8").count("\n") for path in python_files(folder))


# ---- rooms ---------------------------------------------------------------------------------------------------------------


def layer_rules() -> dict[str, list[list[str]]]:
    """By container, its layers from the top, as the import rules state them."""
    rules = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["tool"]["importlinter"]["contracts"]
    return {
        one["containers"][0]: [[room.strip() for room in layer.split("|")] for layer in one["layers"]]
        for one in rules
        if one["type"] == "layers" and one.get("containers")
    }


def arrows(graph: grimp.ImportGraph, container: str) -> dict[str, set[str]]:
    """By room directly in a package, the other rooms that its modules import."""
    found: dict[str, set[str]] = defaultdict(set)
    for module in graph.modules:
        room = _room(module, container)
        for other in graph.find_modules_directly_imported_by(module) if room else ():
            target = _room(other, container)
            if target and target != room:
                found[room].add(target)
    return dict(found)


def _room(module: str, container: str) -> str:
    return module.removeprefix(container + ".").split(".")[0] if module.startswith(container + ".") else ""


def upward(found: dict[str, set[str]], layers: list[list[str]]) -> list[str]:
    """Arrows that lead from a room to one above it."""
    level = {room: at for at, layer in enumerate(layers) for room in layer}
    return sorted(
        f"{room} -> {target}"
        for room, targets in found.items()
        for target in targets
        if room in level and target in level and level[target] < level[room]
    )


def cycle(graph: grimp.ImportGraph) -> str:
    """Modules that import each other, however far round, if there are any."""
    try:
        TopologicalSorter({one: graph.find_modules_directly_imported_by(one) for one in graph.modules}).prepare()
    except CycleError as error:
        return " -> ".join(error.args[1])
    return ""


def needed(found: dict[str, set[str]]) -> dict[str, set[str]]:
    """The arrows without those that follow from others (a room that is reached through another): what a drawing needs."""

    def reached(room: str, seen: set[str]) -> set[str]:
        for other in found.get(room, set()) - seen:
            seen.add(other)
            reached(other, seen)
        return seen

    beyond = {room: {far for near in targets for far in reached(near, set())} for room, targets in found.items()}
    return {room: targets - beyond[room] for room, targets in found.items()}


def drawing(graph: grimp.ImportGraph) -> str:
    """Both halves, core and window, as Mermaid drawings: rooms in their layers, arrows to what each stands on."""
    parts = []
    for container, layers in layer_rules().items():
        found = arrows(graph, container)
        lines = ["```mermaid", "flowchart TB"]
        for at, layer in enumerate(layers):
            lines.append(f"  subgraph layer{at}[ ]")
            lines += [f"    {room}" for room in layer]
            lines.append("  end")
        placed = {room for layer in layers for room in layer}
        lines += [
            f"  {room} --> {target}"
            for room, targets in sorted(needed(found).items())
            for target in sorted(targets)
            if room in placed and target in placed
        ]
        parts += [f"### {container}", "", *lines, "```", ""]
    return "\n".join(parts).rstrip()


def with_drawing(text: str, drawn: str) -> str:
    """The page with the drawing of now between its marks."""
    head, rest = text.split(BEGIN)
    return f"{head}{BEGIN}\n\n{drawn}\n\n{END}{rest.split(END)[1]}"


# ---- the command ---------------------------------------------------------------------------------------------------------


def smoke() -> list[tuple[str, str]]:
    """What is worth a look and fails nothing: its words, and what it is."""
    classes, functions = definitions(SOURCE)
    median, tenth = statistics.median(one.lines for one in functions), functions[int(0.9 * len(functions))].lines
    large = [f"{one.lines} lines, {one.where}" for one in classes if one.lines > LARGE_CLASS]
    long = [f"{one.lines} lines, {one.where}" for one in functions if one.lines > LONG_FUNCTION]
    return [
        ("largest class", f"{classes[-1].lines} lines, {classes[-1].where}"),
        ("longest function", f"{functions[-1].lines} lines, {functions[-1].where}"),
        ("median function", f"{median:g} lines; nine in ten have {tenth} at most"),
        *(("a look is due", one) for one in (*large, *long)),
    ]


def rows(graph: grimp.ImportGraph) -> list[tuple[str, str, str, bool]]:
    """What has to hold: its words, what it is, what it should be, and whether it is so."""
    tests, others = lines_of(TESTS), lines_of(SOURCE) + lines_of(TOOLS)
    share = tests / (tests + others)
    up = [arrow for container, layers in layer_rules().items() for arrow in upward(arrows(graph, container), layers)]
    knot = cycle(graph)
    return [
        ("import cycles", knot or "0", "0", not knot),
        ("upward arrows", "; ".join(up) or "0", "0", not up),
        (
            "tests of all Python lines",
            f"{100 * share:.0f} % of {tests + others:,}",
            "25 to 33 %",
            0.25 <= share <= 1 / 3,
        ),
    ]


def main() -> int:
    """Print the figures; 1 when one is not as it should be."""
    parser = argparse.ArgumentParser(prog="eager-lens figures", description=__doc__)
    parser.add_argument("--write", action="store_true", help="write the drawing of the rooms into docs/architecture.md")
    parser.add_argument("--start", action="store_true", help="measure how long the window takes to start, too")
    given = parser.parse_args()
    graph = grimp.build_graph("eager_lens", cache_dir=None)
    if given.write:
        DRAWING.write_text(with_drawing(DRAWING.read_text("utf-8"), drawing(graph)), "utf-8")
    for words, is_now in smoke():
        print(f"{words:26} {is_now}")
    measured = rows(graph)
    for words, is_now, wanted, holds in measured:
        print(f"{words:26} {is_now:75} {wanted:12} {'holds' if holds else 'does not hold'}")
    if given.start:
        from tools.perf.benchmarks import start_up

        for one in start_up():
            print(f"{one.name:26} {one.ratio:.2f} x a bare window with a table")
    return 0 if all(holds for *_, holds in measured) else 1


if __name__ == "__main__":
    sys.exit(main())
