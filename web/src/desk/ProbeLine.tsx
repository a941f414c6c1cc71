import { useEffect, useState } from "react";

import { http, type Probe } from "../api/client";

/** One quiet line: what lies under the pointer. */
export function ProbeLine({
  slug,
  revision,
  at,
  making,
}: {
  slug: string;
  revision: number;
  at: [number, number] | null;
  making: boolean;
}) {
  const [found, setFound] = useState<Probe | null>(null);
  const x = at?.[0];
  const y = at?.[1];
  useEffect(() => {
    if (x === undefined || y === undefined) {
      setFound(null);
      return;
    }
    const stop = new AbortController();
    const later = setTimeout(async () => {
      try {
        const got = await http.GET("/api/studies/{slug}/probe", {
          params: { path: { slug }, query: { x, y } },
          signal: stop.signal,
        });
        if (got.response.status === 200 && got.data) setFound(got.data);
      } catch {
        // The pointer moved on, or the server is away: the line simply stays as it is.
      }
    }, 60);
    return () => {
      clearTimeout(later);
      stop.abort();
    };
  }, [slug, revision, x, y]);

  if (!at) return <p className="quiet truncate">Rest the pointer on the drawing to see what is there.</p>;
  if (!found) return <p className="quiet">…</p>;
  const words =
    found.part === null && !found.figure
      ? ["Sky"]
      : [
          found.cut ? `${found.material}, cut` : found.material,
          `${found.layer ? `${found.layer.split("/").at(-1)}, ` : ""}${found.name}`,
          found.role,
          found.glass ? "behind glass" : "",
          found.cut || found.distance === null ? "" : `${found.distance.toFixed(1)} m beyond`,
          found.light,
        ];
  return (
    <p className="truncate" data-testid="probe">
      <b className="font-semibold">{words[0]}</b>
      <span className="quiet">
        {words
          .slice(1)
          .filter(Boolean)
          .map((w) => ` · ${w}`)}
      </span>
      {!!found.under?.length && (
        <span className="text-sanguine"> · under {found.under.map((n) => `“${n}”`).join(", ")}</span>
      )}
      {found.pen && <b className="font-semibold"> · {found.pen}</b>}
      {making && <span className="quiet"> · mapping the regions …</span>}
    </p>
  );
}
