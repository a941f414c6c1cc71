import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useMemo, useState } from "react";

import { answered, http, type View } from "../api/client";
import { useScreen } from "../desk/screen";
import type { Editing } from "../desk/study";
import type { Vec } from "./view/camera";

const ModelView = lazy(() => import("../shared/ModelView"));

export function useParts(slug: string) {
  return useQuery({
    queryKey: ["parts", slug],
    queryFn: () => answered(http.GET("/api/studies/{slug}/parts", { params: { path: { slug } } })),
    staleTime: Infinity,
  });
}

/** Layers with their parts; what is selected here is selected in the model. */
export function ModelList({ editing }: { editing: Editing }) {
  const parts = useParts(editing.study.slug);
  const { part, choosePart } = useScreen();
  const [search, setSearch] = useState("");
  const layers = useMemo(() => {
    const found = new Map<string, { number: number; name: string }[]>();
    parts.data?.forEach((p, number) => {
      if (search && !`${p.layer}/${p.name} ${p.material} ${p.role}`.toLowerCase().includes(search.toLowerCase())) return;
      const layer = p.layer || "No layer";
      if (!found.has(layer)) found.set(layer, []);
      found.get(layer)!.push({ number, name: p.name });
    });
    return found;
  }, [parts.data, search]);
  const [open, setOpen] = useState<Set<string>>(new Set());
  const chosenLayer = part !== null ? parts.data?.[part]?.layer || "No layer" : null;

  return (
    <>
      <h2>Parts</h2>
      <input
        className="field mt-2 mb-1 w-full"
        type="search"
        aria-label="Search parts by name, layer, material or role"
        placeholder="Name, layer, material, role"
        value={search}
        onChange={(e) => setSearch(e.target.value)}
      />
      {parts.isPending && <p className="quiet py-2">Reading the parts …</p>}
      {parts.error && <p role="alert">{parts.error.message}</p>}
      {parts.data && layers.size === 0 && <p className="quiet py-2">No part matches “{search}”.</p>}
      <ul>
        {[...layers].map(([layer, rows]) => {
          const shown = open.has(layer) || chosenLayer === layer || (search !== "" && rows.length <= 12);
          return (
            <li key={layer}>
              <button
                type="button"
                className="plain row w-full"
                aria-expanded={shown}
                onClick={() => setOpen((s) => new Set(s.has(layer) ? [...s].filter((l) => l !== layer) : [...s, layer]))}
              >
                <span className="truncate">{layer}</span>
                <span className="quiet">{rows.length}</span>
              </button>
              {shown && (
                <ul className="border-b border-hairline py-1">
                  {rows.slice(0, 300).map((row) => (
                    <li key={row.number}>
                      <button
                        type="button"
                        className={`plain block w-full truncate py-0.5 pl-4 ${part === row.number ? "font-semibold text-sanguine" : ""}`}
                        aria-pressed={part === row.number}
                        onClick={() => choosePart(part === row.number ? null : row.number)}
                      >
                        {row.name}
                      </button>
                    </li>
                  ))}
                  {rows.length > 300 && <li className="quiet pl-4">and {rows.length - 300} more; search to narrow them</li>}
                </ul>
              )}
            </li>
          );
        })}
      </ul>
    </>
  );
}

/** The model, free to look at; nothing here changes a view. */
export function ModelRoom({ editing }: { editing: Editing }) {
  const { model } = editing.study;
  const { part, choosePart } = useScreen();
  const low = model.focus_low as Vec;
  const high = model.focus_high as Vec;
  const radius = Math.hypot(high[0] - low[0], high[1] - low[1], high[2] - low[2]) / 2;
  const start = useMemo<View>(() => {
    const middle: Vec = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, (low[2] + high[2]) / 2];
    return {
      name: "Model",
      projection: {
        kind: "perspective",
        eye: [middle[0] + radius * 0.5, middle[1] - radius * 1.9, middle[2] + radius * 0.85],
        target: middle,
        up: [0, 0, 1],
        field_of_view: 50,
        upright: false,
      },
      cuts: [],
      parts: { hidden: [], uncut: [] },
      sun: { azimuth: 200, altitude: 42 },
      frame: { width: 420, height: 297, resolution: 150 },
    };
  }, [low, high, radius]);
  const [view, setView] = useState(start);
  return (
    <div className="relative h-full bg-desk">
      <Suspense fallback={<p className="quiet flex h-full items-center justify-center">Bringing the model …</p>}>
        <ModelView
          slug={editing.study.slug}
          version={model.version}
          view={view}
          scale={100}
          centre={[0, 0, 0]}
          framed={false}
          part={part}
          onPart={choosePart}
          onView={setView}
        />
      </Suspense>
      <button type="button" className="line-act absolute right-5 bottom-4 bg-page text-xs" onClick={() => setView(start)}>
        Show all
      </button>
    </div>
  );
}

/** What is known of the selected part, or of the model as a whole. */
export function ModelSettings({ editing }: { editing: Editing }) {
  const parts = useParts(editing.study.slug);
  const { part } = useScreen();
  const { model, document } = editing.study;
  const chosen = part !== null ? parts.data?.[part] : undefined;
  if (chosen) {
    const rows: [string, string][] = [
      ["Layer", chosen.layer || "none"],
      ["Material", chosen.material],
      ["Role", chosen.role],
      ["Triangles", chosen.triangles.toLocaleString("en")],
    ];
    const pattern = `${chosen.layer ? `${chosen.layer}/` : ""}${chosen.name}`;
    const hidden = document.desk.view.parts?.hidden ?? [];
    const isHidden = hidden.includes(pattern);
    return (
      <>
        <h2>{chosen.name}</h2>
        <dl className="mt-2">
          {rows.map(([name, value]) => (
            <div key={name} className="row">
              <dt>{name}</dt>
              <dd className="flex items-center gap-2 text-right">
                {name === "Material" && <span className="inline-block h-3 w-5 border border-soft" style={{ background: chosen.colour }} aria-hidden />}
                {value}
              </dd>
            </div>
          ))}
        </dl>
        <button
          type="button"
          className="line-act mt-4"
          onClick={() =>
            editing.edit(isHidden ? `Show ${chosen.name}` : `Leave ${chosen.name} out`, [
              { path: ["desk", "view", "parts", "hidden"], value: isHidden ? hidden.filter((h) => h !== pattern) : [...hidden, pattern] },
            ])
          }
        >
          {isHidden ? "Show it in the view on the desk" : "Leave it out of the view on the desk"}
        </button>
      </>
    );
  }
  const size = [0, 1, 2].map((k) => ((model.high as Vec)[k]! - (model.low as Vec)[k]!).toFixed(2));
  return (
    <>
      <h2>{document.name}</h2>
      <dl className="mt-2">
        {(
          [
            ["Length (X)", `${size[0]} m`],
            ["Depth (Y)", `${size[1]} m`],
            ["Height (Z)", `${size[2]} m`],
            ["Parts", model.parts.toLocaleString("en")],
            ["Triangles", model.triangles.toLocaleString("en")],
            ["Brought from", model.source || "this application"],
            ["Units of the file", model.units],
          ] as const
        ).map(([name, value]) => (
          <div key={name} className="row">
            <dt>{name}</dt>
            <dd className="truncate text-right">{value}</dd>
          </div>
        ))}
      </dl>
      <p className="quiet mt-4">Press a part in the model or in the list to see what it is. Drag to orbit, with Shift to move, wheel to come nearer.</p>
    </>
  );
}
