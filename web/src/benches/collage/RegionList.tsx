import { useState } from "react";

import { useRegions } from "../../desk/regions";
import type { Editing } from "../../desk/study";

/** The kept regions. Each is a query, so it is there in every view; choosing one shows it on the drawing. */
export function RegionList({ editing }: { editing: Editing }) {
  const { kept, choose } = useRegions();
  const [naming, setNaming] = useState<string | null>(null);
  const regions = editing.study.document.regions ?? [];
  const act = (action: "rename" | "remove", region_id: string, name = "") =>
    void editing.act(
      action === "rename"
        ? { do: "rename_region", label: "Rename region", region_id, name }
        : { do: "remove_region", label: "Remove region", region_id },
    );
  return (
    <>
      <h2 className="mt-6">Regions</h2>
      {regions.length === 0 && (
        <p className="quiet mt-1 text-xs">
          Click in the drawing to select a region; more clicks mean more of it. Keep one under a name and it is found
          again in every view.
        </p>
      )}
      <ul>
        {regions.map((region) => {
          const picked = kept === region.id;
          return (
            <li key={region.id} className="row" data-chosen={picked}>
              {naming === region.id ? (
                <input
                  autoFocus
                  aria-label={`New name for ${region.name}`}
                  className="field min-w-0 flex-1"
                  defaultValue={region.name}
                  maxLength={100}
                  onBlur={() => setNaming(null)}
                  onKeyDown={(e) => {
                    if (e.key === "Escape") setNaming(null);
                    if (e.key !== "Enter") return;
                    const words = e.currentTarget.value.trim();
                    if (words && words !== region.name) act("rename", region.id, words);
                    setNaming(null);
                  }}
                />
              ) : (
                <button
                  type="button"
                  className="plain min-w-0 flex-1 truncate py-1"
                  aria-pressed={picked}
                  onClick={() => choose(picked ? null : region.id)}
                >
                  {region.name}
                </button>
              )}
              {picked && naming !== region.id && (
                <span className="flex gap-2 text-xs">
                  <button
                    type="button"
                    className="plain underline decoration-hairline underline-offset-4"
                    aria-label={`Rename ${region.name}`}
                    onClick={() => setNaming(region.id)}
                  >
                    Rename
                  </button>
                  <button
                    type="button"
                    className="plain underline decoration-hairline underline-offset-4"
                    aria-label={`Remove ${region.name}`}
                    onClick={() => {
                      choose(null);
                      act("remove", region.id);
                    }}
                  >
                    Remove
                  </button>
                </span>
              )}
            </li>
          );
        })}
      </ul>
    </>
  );
}
