"""Tests of the package, its programs and its screens."""

# Before any test loads numpy: it says how many threads the linear algebra has.
import lucernis as lucernis
