"""
How deep the core is, and what everything leans on.

    .venv/bin/python scripts/layers.py

Prints the longest chain of imports from the top of the core to its bottom, the modules that most others import, and for
each wing how many modules it has and which wings it uses.
"""

import sys
from collections import Counter
from functools import cache

import grimp

CORE = "upper_rook.core"


def main() -> int:
    """Prints all of it."""
    graph = grimp.build_graph("upper_rook")
    modules = [name for name in graph.modules if name.startswith(f"{CORE}.") and not graph.find_children(name)]

    def used(name: str) -> list[str]:
        return sorted(text for text in graph.find_modules_directly_imported_by(name) if text in modules)

    @cache
    def chain(name: str) -> tuple[str, ...]:
        return (name, *max((chain(text) for text in used(name)), key=len, default=()))

    longest = max((chain(name) for name in modules), key=len)
    print(f"{len(modules)} modules; the longest chain has {len(longest)}:")
    print("  " + " > ".join(name.removeprefix(f"{CORE}.") for name in longest))
    fan_in = Counter(text for name in modules for text in used(name))
    print("Most imported:")
    for name, count in fan_in.most_common(8):
        print(f"  {count:3}  {name.removeprefix(f'{CORE}.')}")
    print("Wings:")
    wings = sorted({name.removeprefix(f"{CORE}.").partition(".")[0] for name in modules})
    for wing in wings:
        inside = [name for name in modules if name.startswith(f"{CORE}.{wing}.") or name == f"{CORE}.{wing}"]
        others = {text.removeprefix(f"{CORE}.").partition(".")[0] for name in inside for text in used(name)} - {wing}
        print(f"  {wing}: {len(inside)} modules, uses {', '.join(sorted(others)) or 'nothing'}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
