import { useLayoutEffect, useState } from "react";

import { usePainting } from "../benches/collage/windows";
import { useStanding } from "../benches/collage/figures/standing";
import { useHeld } from "../benches/ink/held";
import { useMarking } from "../benches/ink/marks/marking";
import { useOutlining } from "../benches/ink/outlining";
import { usePouring } from "../benches/ink/pouring";
import { useChoice } from "../benches/model/choice";
import { useNoting } from "../benches/sheet/noting";
import { useRegions } from "./regions";
import { useScreen } from "./screen";
import { useModelJob } from "./study";

/** What is chosen, in the hand, seen alone or hidden for comparison belongs to the study that it was done in. */
const OF_A_STUDY = [
  useChoice,
  useHeld,
  useMarking,
  useModelJob,
  useNoting,
  useOutlining,
  usePainting,
  usePouring,
  useRegions,
  useScreen,
  useStanding,
];

let last = "";

/** Lay all of it back; the bench and how large the drawing is asked for are those of who works. */
export function layBack(): void {
  const { bench, pixels } = useScreen.getState();
  for (const store of OF_A_STUDY)
    (store as { setState: (state: unknown, whole: true) => void }).setState(store.getInitialState(), true);
  useScreen.setState({ bench, pixels });
}

/** Whether the screen is that of this study: nothing of the one before lies on it. */
export function useBegun(slug: string): boolean {
  const [begun, setBegun] = useState(last === slug);
  useLayoutEffect(() => {
    if (last !== slug) layBack();
    last = slug;
    setBegun(true);
  }, [slug]);
  return begun;
}
