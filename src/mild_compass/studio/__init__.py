"""The interface: the only room that knows Qt."""

import gc

# Nothing is garbage yet while the libraries load; the collector begins when the window stands (application.py).
gc.disable()
