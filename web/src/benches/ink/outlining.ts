import { create } from "zustand";

type Place = [number, number];

type Outlining = {
  /** The corners drawn so far in frame millimetres; `null` while none is drawn. */
  corners: Place[] | null;
  /** What is done with the outline once it is closed. */
  then: ((corners: Place[]) => void) | null;
  begin: (then: (corners: Place[]) => void) => void;
  add: (corner: Place) => void;
  end: (done: boolean) => void;
};

/** An outline that is drawn on the paper, corner by corner: a click sets one, Enter or a click on the first closes it, Esc leaves off. */
export const useOutlining = create<Outlining>((set, get) => ({
  corners: null,
  then: null,
  begin: (then) => set({ corners: [], then }),
  add: (corner) => set((s) => ({ corners: s.corners && [...s.corners, corner] })),
  end: (done) => {
    const { corners, then } = get();
    set({ corners: null, then: null });
    if (done && corners && corners.length > 2) then?.(corners);
  },
}));
