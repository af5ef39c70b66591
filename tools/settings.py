"""List every setting with its help line, for ``make help``: reads the settings module alone, needs nothing set up."""

import importlib.util
import sys
from pathlib import Path

path = Path(__file__).resolve().parents[1] / "src/wolfsbane/server/core/config.py"
spec = importlib.util.spec_from_file_location("config", path)
config = importlib.util.module_from_spec(spec)
sys.modules["config"] = config
spec.loader.exec_module(config)
print(config.help_text())
