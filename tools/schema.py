"""Write docs/plan.schema.json from the model: python -m tools.schema."""

import json
from pathlib import Path

from mild_compass.plan.coding import json_schema

TARGET = Path(__file__).parents[1] / "docs/plan.schema.json"

if __name__ == "__main__":
    TARGET.write_text(json.dumps(json_schema(), indent=1, ensure_ascii=False) + "\n")
