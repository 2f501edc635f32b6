"""Write the schemas in docs from the code: python -m tools.schema."""

import json
from pathlib import Path

from mild_compass.craft import reading
from mild_compass.plan import coding

DOCS = Path(__file__).parents[1] / "docs"
SCHEMAS = {"plan.schema.json": coding.json_schema, "readings.schema.json": reading.json_schema}

if __name__ == "__main__":
    for name, schema in SCHEMAS.items():
        (DOCS / name).write_text(json.dumps(schema(), indent=1, ensure_ascii=False) + "\n")
