"""Plain geometry over arrays, which knows no model, view or drawing.

Rows of unequal length (:mod:`.ragged`), triangles, frames on planes, projective maps, what hangs together, where a
point lies, and the tolerances by which all of it is judged.
"""
