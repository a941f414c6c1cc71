import { useQuery } from "@tanstack/react-query";

import { answered, http } from "../api/client";
import { usePicture } from "../shared/picture";
import { useScreen } from "./screen";
import { at, type Editing } from "./study";

/** The view on the desk through a day or a year, as a row of small pictures to choose from. */
export function SunRow({ editing }: { editing: Editing }) {
  const { sunRow, set } = useScreen();
  const { study } = editing;
  const found = useQuery({
    queryKey: ["suns", study.slug, sunRow, study.revision],
    enabled: !!sunRow,
    queryFn: () =>
      answered(http.POST("/api/studies/{slug}/suns/{row}", { params: { path: { slug: study.slug, row: sunRow! } } })),
    placeholderData: (before) => before,
  }).data;
  if (!sunRow) return null;
  const now = study.document.desk.view.sun!;
  return (
    <div
      className="flex items-end gap-2 border-t border-hairline px-7 pt-2 pb-1"
      role="group"
      aria-label={`The sun through the ${sunRow}`}
    >
      {found?.note && <p className="quiet flex-1 py-2">{found.note}</p>}
      {found && !found.note && (
        <ul className="flex min-w-0 flex-1 gap-1.5 overflow-hidden">
          {found.suns.map((sun, k) => {
            const here = sun.azimuth === now.azimuth && sun.altitude === now.altitude;
            return (
              <li key={found.labels[k]} className="min-w-0 flex-1">
                <button
                  type="button"
                  className="plain block w-full"
                  aria-pressed={here}
                  disabled={sun.altitude! <= 0}
                  aria-label={`Sun at ${found.labels[k]}, ${sun.altitude!.toFixed(0)}° high`}
                  onClick={() => editing.view(`Sun at ${found.labels[k]}`, [at(["sun"], sun)])}
                >
                  <SunPicture address={found.pictures[k]!} chosen={here} />
                  <span
                    className={`block truncate text-[11px] text-graphite ${here ? "font-semibold underline decoration-sanguine decoration-2 underline-offset-2" : ""}`}
                  >
                    {found.labels[k]}
                  </span>
                </button>
              </li>
            );
          })}
        </ul>
      )}
      <button
        type="button"
        className="plain shrink-0 pb-1 text-xs underline decoration-hairline underline-offset-4"
        onClick={() => set({ sunRow: null })}
      >
        Put away
      </button>
    </div>
  );
}

/** One picture of the row. */
function SunPicture({ address, chosen }: { address: string; chosen: boolean }) {
  const { src } = usePicture(address, { every: 400 });
  return (
    <span
      className={`block aspect-[1.41] w-full overflow-hidden bg-sheet outline ${chosen ? "outline-2 outline-sanguine" : "outline-1 outline-[#d5c9b5]"}`}
    >
      {src && <img src={src} alt="" className="h-full w-full object-cover" draggable={false} />}
    </span>
  );
}
