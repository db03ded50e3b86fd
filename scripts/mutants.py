"""How many changes of a character some test notices, where a wrong character makes a wrong map.

``[tool.mutmut]`` in pyproject.toml says which files are changed and which tests must notice. What survives is listed.
"""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

LEAST = 0.9
# Exit statuses of a test run that has noticed: a test failed, or it took for ever.
NOTICED = {1, 3, -24, 24, 36, 152, 255}


def main() -> int:
    done = subprocess.run([Path(sys.executable).parent / "mutmut", "run", "--max-children", "2"])
    if done.returncode:
        return done.returncode
    noticed_in_all = total_in_all = 0
    survivors: list[str] = []
    for meta in sorted(Path("mutants/src").rglob("*.meta")):
        codes: dict[str, int | None] = json.loads(meta.read_text())["exit_code_by_key"]
        noticed = sum(code in NOTICED for code in codes.values())
        survivors += [name for name, code in codes.items() if code not in NOTICED]
        noticed_in_all += noticed
        total_in_all += len(codes)
        if codes:
            print(f"{noticed:5d} of {len(codes):5d}  {100 * noticed / len(codes):5.1f} %  {meta.stem}")
    print("\n".join(survivors))
    share = noticed_in_all / max(1, total_in_all)
    print(f"{noticed_in_all} of {total_in_all} changes noticed: {100 * share:.1f} %")
    return 0 if share >= LEAST else 1


if __name__ == "__main__":
    sys.exit(main())
