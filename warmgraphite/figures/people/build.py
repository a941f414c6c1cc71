"""How a person is built: lengths by age, which are not those of an adult made smaller."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

__all__ = ["REFERENCE", "Build", "build_of"]

#: Metres of stature that poses are written for.
REFERENCE = 1.72

#: By age in years: stature in metres, and as shares of it the heights of head, hip, knee, ankle and shoulder joints,
#: half the widths across shoulders and hips, upper arm, forearm; how stout; degrees by which one stoops.
_TABLE = np.array([
    # age stature head   hip    knee   ankle  should  s.wide  h.wide  upper  fore   stout  stoop
    (2,   0.87,   0.215, 0.425, 0.220, 0.048, 0.735,  0.100,  0.049,  0.150, 0.128, 1.30,  0),
    (4,   1.03,   0.190, 0.455, 0.236, 0.046, 0.757,  0.101,  0.048,  0.157, 0.135, 1.20,  0),
    (10,  1.39,   0.156, 0.498, 0.262, 0.044, 0.795,  0.100,  0.045,  0.166, 0.143, 1.00,  0),
    (15,  1.64,   0.138, 0.522, 0.280, 0.043, 0.812,  0.103,  0.046,  0.172, 0.149, 0.96,  0),
    (20,  1.72,   0.130, 0.528, 0.284, 0.042, 0.818,  0.106,  0.047,  0.173, 0.150, 1.00,  0),
    (55,  1.71,   0.131, 0.527, 0.284, 0.042, 0.816,  0.106,  0.048,  0.173, 0.150, 1.06,  1),
    (72,  1.67,   0.133, 0.524, 0.283, 0.043, 0.806,  0.105,  0.048,  0.175, 0.152, 1.06,  8),
    (90,  1.61,   0.136, 0.520, 0.281, 0.044, 0.795,  0.103,  0.048,  0.177, 0.154, 1.02,  17),
])  # fmt: skip


@dataclass(frozen=True)
class Build:
    """Lengths in metres, and what makes a body another.
    ``girth`` multiplies what is round, ``stoop`` is in degrees, ``hips`` how wide the hips are against the shoulders,
    from −1 to 1.
    """

    stature: float
    head: float
    hip: float
    knee: float
    ankle: float
    shoulder: float
    shoulder_wide: float
    hip_wide: float
    upper: float
    fore: float
    girth: float
    stoop: float
    hips: float
    age: float
    #: How many faces there are round a limb, as a share of all.
    fine: float = 1.0

    def around(self, count: int, by: int = 1) -> int:
        """How many corners a ring has that has ``count`` at best, a multiple of ``by``."""
        return count if self.fine >= 1 else max(by * round(count * self.fine / by), by, 4)

    @property
    def unit(self) -> float:
        """What a length of the reference person is to this one."""
        return self.stature / REFERENCE

    @property
    def thigh(self) -> float:
        return self.hip - self.knee

    @property
    def shin(self) -> float:
        return self.knee - self.ankle

    @property
    def torso(self) -> float:
        """From the hip joints to the shoulder joints."""
        return self.shoulder - self.hip

    @property
    def arm(self) -> float:
        """From the shoulder to the wrist."""
        return self.upper + self.fore


def build_of(age: float, height: float | None = None, girth: float = 1.0, hips: float = 0.0) -> Build:
    """The build of a person of an age in years, of the usual stature where no ``height`` in metres is given."""
    row = [float(np.interp(age, _TABLE[:, 0], _TABLE[:, k])) for k in range(1, _TABLE.shape[1])]
    stature = height or row[0]
    head, hip, knee, ankle, shoulder, s_wide, h_wide, upper, fore = (v * stature for v in row[1:10])
    s_wide *= 1 - 0.055 * hips if age >= 13 else 1.0
    h_wide *= 1 + 0.05 * hips if age >= 13 else 1.0
    return Build(
        stature, head, hip, knee, ankle, shoulder, s_wide, h_wide, upper, fore, row[10] * girth, row[11],
        hips if age >= 13 else 0.0, age,
    )  # fmt: skip
