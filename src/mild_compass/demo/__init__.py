"""The demo plan and its made-up photographs."""
