import { useSyncExternalStore } from "react";

/** Millimetres of a bank card (ISO/IEC 7810, ID-1), and of the length that is laid against a ruler. */
export const CARD = [85.6, 53.98] as const;
export const RULER = 100;

const KEY = "pixels-per-mm";
/** What a screen has by the standard (CSS Values and Units): 96 to the inch. */
const USUAL = 96 / 25.4;
const listeners = new Set<() => void>();

function kept(): number {
  const found = Number(localStorage.getItem(KEY));
  return found > 1 && found < 30 ? found : 0;
}

/** Pixels of this screen in a millimetre, and whether somebody has measured it. It is of the screen, not of a study. */
export function useScreenSize(): { perMm: number; measured: boolean; set: (perMm: number) => void } {
  const found = useSyncExternalStore((listener) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  }, kept);
  return {
    perMm: found || USUAL,
    measured: found > 0,
    set: (perMm) => {
      localStorage.setItem(KEY, String(perMm));
      listeners.forEach((l) => l());
    },
  };
}
