"""python -m mild_compass."""

from mild_compass.cli import main

raise SystemExit(main())
