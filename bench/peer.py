"""The polygon hidden-line algorithm of the open B-rep kernel on blocks of boxes.
What the line pass is measured against.
"""

from __future__ import annotations

import sys
import time

import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_PolyAlgo, HLRBRep_PolyHLRToShape
from OCP.TopoDS import TopoDS_Compound

from bench.models import box_rows


def main() -> None:
    """Print the seconds of finding what is hidden, and of handing the lines out, for so many boxes."""
    whole, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(whole)
    for low, high in box_rows(int(sys.argv[1])):
        builder.Add(whole, BRepPrimAPI_MakeBox(gp_Pnt(*low.tolist()), gp_Pnt(*high.tolist())).Shape())
    BRepMesh_IncrementalMesh(whole, 0.1)
    sight = np.array(SIGHT)
    projector = HLRAlgo_Projector(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*(-sight).tolist())))
    found = []
    for _ in range(2):
        start = time.perf_counter()
        hiding = HLRBRep_PolyAlgo(whole)
        hiding.Projector(projector)
        hiding.Update()
        middle = time.perf_counter()
        shapes = HLRBRep_PolyHLRToShape()
        shapes.Update(hiding)
        shapes.VCompound()
        shapes.HCompound()
        found.append((middle - start, time.perf_counter() - middle))
    print(*(min(column) for column in zip(*found, strict=True)))


SIGHT = (0.5, 1.0, -0.6)

if __name__ == "__main__":
    main()
