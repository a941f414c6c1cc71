import { useEffect } from "react";

import { usePouring, WIDTHS } from "./pouring";

const WORDS = { region: "this", face: "face", part: "part", material: "material", layer: "layer" } as const;

/** How wide a tap is meant, with what is in the hand. */
export function TapWidth() {
  const { width, set } = usePouring();
  return (
    <span className="flex items-center gap-2.5" role="radiogroup" aria-label="How wide a tap is meant">
      <span className="quiet">into</span>
      {WIDTHS.map((w) => (
        <button
          key={w}
          type="button"
          role="radio"
          aria-checked={w === width}
          className={`plain border-b-2 ${w === width ? "border-sanguine font-semibold" : "border-transparent"}`}
          onClick={() => set({ width: w })}
        >
          {WORDS[w]}
        </button>
      ))}
    </span>
  );
}

/** Lays back what is in the hand at Esc, and when the bench is left. */
export function useLayingBack(): void {
  const lay = usePouring((s) => s.lay);
  useEffect(() => {
    const keys = (event: KeyboardEvent) => event.key === "Escape" && lay();
    window.addEventListener("keydown", keys);
    return () => {
      window.removeEventListener("keydown", keys);
      lay();
    };
  }, [lay]);
}
