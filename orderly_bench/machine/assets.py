"""The built styles: made with Node 20 or newer, committed, and checked by their recorded inputs."""

from __future__ import annotations

import hashlib
import json
import shutil
import subprocess
from pathlib import Path

from orderly_bench.machine.paths import ROOT
from orderly_bench.machine.problem import Problem, say

SOURCE = ROOT / "assets" / "app.css"
BUILT = ROOT / "orderly_bench" / "web" / "static" / "app.css"
RECORD = ROOT / "assets" / "app.css.inputs.json"
INPUT_GLOBS = (
    "assets/*.css",
    "orderly_bench/**/templates/**/*.html",
    "orderly_bench/web/static/*.js",
    "package-lock.json",
)


def inputs() -> dict[str, str]:
    """SHA-256 of everything the styles are made from, by path."""
    files = sorted({file for pattern in INPUT_GLOBS for file in ROOT.glob(pattern)})
    return {str(file.relative_to(ROOT)): hashlib.sha256(file.read_bytes()).hexdigest() for file in files}


def recorded() -> dict[str, object]:
    """What was recorded at the last build."""
    return dict(json.loads(RECORD.read_text()))


def node_is_new_enough() -> bool:
    """Whether Node 20 or newer and the build tools are at hand."""
    node = shutil.which("node")
    if node is None or not (ROOT / "node_modules" / ".bin" / "tailwindcss").exists():
        return False
    version = subprocess.run([node, "--version"], capture_output=True, text=True, check=False).stdout
    return int(version.lstrip("v").split(".")[0] or 0) >= 20


def compile_to(target: Path) -> None:
    """Run the compiler once."""
    command = [str(ROOT / "node_modules" / ".bin" / "tailwindcss"), "-i", str(SOURCE), "-o", str(target), "--minify"]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise Problem(f"The styles could not be built:\n{done.stderr[-800:]}")


def build() -> int:
    """Build the styles and record their inputs."""
    if not (ROOT / "node_modules").is_dir() and shutil.which("npm"):
        subprocess.run(["npm", "ci", "--silent"], cwd=ROOT, check=False)
    if not node_is_new_enough():
        raise Problem("Building the styles needs Node 20 or newer and `npm install`; running and testing need neither.")
    compile_to(BUILT)
    record = {"built": hashlib.sha256(BUILT.read_bytes()).hexdigest(), "inputs": inputs()}
    RECORD.write_text(json.dumps(record, indent=1, sort_keys=True) + "\n")
    say(f"Built {BUILT.relative_to(ROOT)}")
    return 0
