"""The drawing against the plan: a photo of the sheet flattened, its lines found, matched and compared."""
