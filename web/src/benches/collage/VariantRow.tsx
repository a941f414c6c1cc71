import { useQuery } from "@tanstack/react-query";

import { answered, http } from "../../api/client";
import { useScreen } from "../../desk/screen";
import type { Editing } from "../../desk/study";
import { usePicture } from "../../shared/picture";

/** The view on the desk in each finish, hung in a row like proofs; the one that is pressed is laid over it. */
export function VariantRow({ editing }: { editing: Editing }) {
  const { variants, set } = useScreen();
  const { study } = editing;
  const found = useQuery({
    queryKey: ["variants", study.slug, study.revision],
    enabled: variants,
    queryFn: () => answered(http.POST("/api/studies/{slug}/variants", { params: { path: { slug: study.slug } } })),
    placeholderData: (before) => before,
  }).data;
  if (!variants) return null;
  return (
    <div
      className="flex items-end gap-2 border-t border-hairline px-7 pt-2 pb-1"
      role="group"
      aria-label="This view in each finish"
    >
      <ul className="flex min-w-0 flex-1 gap-1.5 overflow-hidden">
        {found?.map((row) => (
          <li key={row.finish} className="min-w-0 flex-1">
            <button
              type="button"
              className="plain block w-full"
              aria-pressed={row.worn}
              aria-label={`Lay “${row.name}” over`}
              onClick={() =>
                void editing.act({
                  do: "lay_finish",
                  label: `Lay “${row.name}” over`,
                  finish_id: row.finish,
                  view_id: "",
                })
              }
            >
              <Proof address={row.picture} worn={row.worn} />
              <span
                className={`block truncate text-[11px] text-graphite ${row.worn ? "font-semibold underline decoration-sanguine decoration-2 underline-offset-2" : ""}`}
              >
                {row.name}
              </span>
            </button>
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="plain shrink-0 pb-1 text-xs underline decoration-hairline underline-offset-4"
        onClick={() => set({ variants: false })}
      >
        Put away
      </button>
    </div>
  );
}

function Proof({ address, worn }: { address: string; worn: boolean }) {
  const { src } = usePicture(address, { every: 500 });
  return (
    <span
      className={`block aspect-[1.41] w-full overflow-hidden bg-sheet outline ${worn ? "outline-2 outline-sanguine" : "outline-1 outline-[#d5c9b5]"}`}
    >
      {src && <img src={src} alt="" className="h-full w-full object-cover" draggable={false} />}
    </span>
  );
}
