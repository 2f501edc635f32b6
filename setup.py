"""The loops in C, built into the package: without Python.h, so a compiler and the C library's headers are enough."""

from pathlib import Path

from setuptools import Extension, setup
from setuptools.command.build_ext import build_ext

SOURCES = sorted(str(each) for each in Path("src/mild_compass/craft/kernels").glob("*.c"))
NO_COMPILER = (
    "Mild Compass could not build its loops: a C compiler is missing or failed "
    "(Debian: apt install gcc libc6-dev; a wheel needs none)."
)


class BuildLoops(build_ext):
    """Says in one sentence what is missing."""

    def run(self):
        """Build all, or say in a sentence why not."""
        try:
            super().run()
        except Exception as error:  # whatever a compiler fails with, under one of two names
            raise SystemExit(f"{error}\n{NO_COMPILER}") from error


# In the order it is written (no contraction), so that what is found is the same on every processor.
FLAGS = ["-std=c11", "-O3", "-ffp-contract=off", "-fno-math-errno", "-fvisibility=default", "-g0"]

setup(
    ext_modules=[
        Extension(
            "mild_compass.craft.kernels._kernels",
            SOURCES,
            depends=["src/mild_compass/craft/kernels/kernels.h"],
            extra_compile_args=FLAGS,
            libraries=["m"],
            py_limited_api=True,
        )
    ],
    cmdclass={"build_ext": BuildLoops},
    options={"bdist_wheel": {"py_limited_api": "cp311"}},
)
