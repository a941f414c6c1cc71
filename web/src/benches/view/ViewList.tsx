import { useQuery } from "@tanstack/react-query";
import { DropdownMenu } from "radix-ui";
import { useEffect, useId, useState } from "react";
import { toast } from "sonner";

import { answered, http, type SavedView } from "../../api/client";
import type { Editing } from "../../desk/study";
import { Leaf } from "../../shared/controls";
import { usePicture } from "../../shared/picture";
import { SectionMark } from "../../shared/signs";
import { bearing, type Vec } from "./camera";

/** Saved views as pictures, with their section marks, and where they stand on a key plan. */
export function ViewList({ editing }: { editing: Editing }) {
  const { study, saved } = editing;
  const [naming, setNaming] = useState<string | null>(null);
  const [pasting, setPasting] = useState<string | null>(null);
  const [comparing, setComparing] = useState<SavedView | null>(null);
  const [grouping, setGrouping] = useState<{ view: SavedView; name: string } | null>(null);
  const changed = study.unsaved;
  const views = study.document.views;
  const groups = [...new Set(views.map((v) => v.group))].sort(
    (a, b) => Number(a !== "") - Number(b !== "") || a.localeCompare(b),
  );
  return (
    <>
      <h2>Views</h2>
      <KeyPlan editing={editing} />
      {groups.map((group) => (
        <section key={group} aria-label={group || "Views of no group"}>
          {group && <h3 className="label mt-3">{group}</h3>}
          <ul className="mt-1">
            {views.map((v, place) => {
              if (v.group !== group) return null;
              const chosen = v.id === saved.id;
              return (
                <li key={v.id} className="relative border-b border-hairline py-1.5">
                  <button
                    type="button"
                    aria-pressed={chosen}
                    className={`plain flex w-full items-center gap-2 ${chosen ? "font-semibold text-sanguine" : ""}`}
                    onClick={() => void editing.act({ do: "open_view", label: "Open view", view_id: v.id })}
                  >
                    <ViewPicture editing={editing} id={v.id} />
                    <span className="min-w-0 flex-1">
                      <span className="block leading-tight">{v.view.name}</span>
                      {chosen && changed && (
                        <span className="block text-xs font-normal text-ochre">changed, not saved</span>
                      )}
                      {v.locked && <span className="quiet block text-xs font-normal">locked</span>}
                    </span>
                    <span className="pb-4">
                      <SectionMark mark={v.mark} sight={bearing(v.view.projection)} chosen={chosen} />
                    </span>
                  </button>
                  <ViewMenu
                    editing={editing}
                    view={v}
                    place={place}
                    last={views.length - 1}
                    onCompare={() => setComparing(v)}
                    onGroup={() => setGrouping({ view: v, name: v.group })}
                  />
                </li>
              );
            })}
          </ul>
        </section>
      ))}
      <div className="mt-3 flex flex-wrap gap-2">
        <button
          type="button"
          className="line-act"
          disabled={!changed || saved.locked}
          onClick={() => void editing.act({ do: "save_view", label: "Save view" })}
        >
          Save again
        </button>
        <button type="button" className="line-act" onClick={() => setNaming(`${study.document.desk.view.name} 2`)}>
          Keep as new …
        </button>
        <button
          type="button"
          className="line-act"
          disabled={!changed}
          onClick={() => void editing.act({ do: "open_view", label: "Open view", view_id: saved.id })}
        >
          Back to saved
        </button>
        <button
          type="button"
          className="line-act"
          disabled={views.length < 2 || saved.locked}
          onClick={() => void editing.act({ do: "remove_view", label: "Remove view", view_id: saved.id })}
        >
          Remove
        </button>
        <button type="button" className="line-act" onClick={() => setPasting("")}>
          Paste a view …
        </button>
      </div>
      <Leaf
        open={naming !== null}
        onClose={() => setNaming(null)}
        title="Keep as a new view"
        about="The view on the desk is kept under its own name and mark. The one it began from stays as it was saved."
      >
        <Words
          label="Name"
          value={naming ?? ""}
          act="Keep view"
          onChange={setNaming}
          onLeave={() => setNaming(null)}
          onDone={(name) => void editing.act({ do: "keep_view", label: `Keep view “${name}”`, name })}
        />
      </Leaf>
      <Leaf
        open={grouping !== null}
        onClose={() => setGrouping(null)}
        title="Group the view"
        about="Views of one group are listed together under its name. Leave the name empty to take the view out of its group."
      >
        <Words
          label="Group"
          value={grouping?.name ?? ""}
          act="Group it"
          empty
          onChange={(name) => grouping && setGrouping({ ...grouping, name })}
          onLeave={() => setGrouping(null)}
          onDone={(name) =>
            void editing.act({ do: "group_view", label: "Group view", view_id: grouping!.view.id, name })
          }
        />
      </Leaf>
      <Leaf
        open={pasting !== null}
        onClose={() => setPasting(null)}
        title="Paste a view"
        about="A view that was copied, here or in another study, is kept as a new one and laid on the desk; a drawing brings its finish and its sheet along."
      >
        <form
          onSubmit={(e) => {
            e.preventDefault();
            const text = pasting ?? "";
            // A drawing says its format; a view has none.
            const whole = /"format"\s*:/.test(text);
            void editing.act(
              whole
                ? { do: "paste_drawing", label: "Paste drawing", text }
                : { do: "paste_view", label: "Paste view", text },
            );
            setPasting(null);
          }}
        >
          <label className="label" htmlFor="pasted-view">
            The copied view or drawing
          </label>
          <textarea
            id="pasted-view"
            className="field h-40 w-full font-mono text-xs"
            value={pasting ?? ""}
            autoFocus
            onChange={(e) => setPasting(e.target.value)}
          />
          <div className="mt-5 flex justify-end gap-3">
            <button type="button" className="line-act" onClick={() => setPasting(null)}>
              Leave it
            </button>
            <button type="submit" className="act" disabled={!pasting?.trim()}>
              Keep view
            </button>
          </div>
        </form>
      </Leaf>
      <Leaf
        open={comparing !== null}
        onClose={() => setComparing(null)}
        title={comparing ? `${comparing.view.name} and the desk` : ""}
        about="What differs between the saved view and the one on the desk."
      >
        {comparing && <Differences editing={editing} view={comparing} />}
      </Leaf>
    </>
  );
}

/** One line of text to give, or to leave. */
function Words(props: {
  label: string;
  value: string;
  act: string;
  empty?: boolean;
  onChange: (value: string) => void;
  onLeave: () => void;
  onDone: (value: string) => void;
}) {
  const id = useId();
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        props.onDone(props.value);
        props.onLeave();
      }}
    >
      <label className="label" htmlFor={id}>
        {props.label}
      </label>
      <input
        id={id}
        className="field w-full"
        value={props.value}
        autoFocus
        onChange={(e) => props.onChange(e.target.value)}
      />
      <div className="mt-5 flex justify-end gap-3">
        <button type="button" className="line-act" onClick={props.onLeave}>
          Leave it
        </button>
        <button type="submit" className="act" disabled={!props.empty && !props.value.trim()}>
          {props.act}
        </button>
      </div>
    </form>
  );
}

/** What else can be done with a saved view. */
function ViewMenu(props: {
  editing: Editing;
  view: SavedView;
  place: number;
  last: number;
  onCompare: () => void;
  onGroup: () => void;
}) {
  const { editing, view, place } = props;
  const order = (to: number) =>
    void editing.act({ do: "order_view", label: "Order of views", view_id: view.id, place: to });
  const copy = async () => {
    await navigator.clipboard.writeText(JSON.stringify(view.view, null, 1));
    toast(`“${view.view.name}” is copied; paste it here or in another study.`);
  };
  const copyDrawing = async () => {
    const answer = await fetch(`/api/studies/${editing.study.slug}/views/${view.id}/drawing`);
    if (!answer.ok) return void toast.error("The drawing could not be read; try again.");
    await navigator.clipboard.writeText(await answer.text());
    toast(`The drawing “${view.view.name}” is copied with its finish; paste it here or in another study.`);
  };
  const items: [string, () => void, boolean?][] = [
    ["Compare with the desk", props.onCompare],
    ["Duplicate", () => void editing.act({ do: "duplicate_view", label: "Duplicate view", view_id: view.id })],
    ["Move up", () => order(place - 1), place === 0],
    ["Move down", () => order(place + 1), place === props.last],
    [
      view.locked ? "Unlock" : "Lock",
      () =>
        void editing.act({
          do: "lock_view",
          label: view.locked ? "Unlock view" : "Lock view",
          view_id: view.id,
          locked: !view.locked,
        }),
    ],
    ["Group …", props.onGroup],
    ["Copy view", () => void copy()],
    ["Copy drawing", () => void copyDrawing()],
  ];
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="plain absolute right-0 bottom-0.5 px-3 py-1"
        aria-label={`More for ${view.view.name}`}
      >
        <svg width="16" height="5" aria-hidden>
          {[2, 8, 14].map((x) => (
            <line key={x} x1={x - 1.4} x2={x + 1.4} y1="4" y2="1" stroke="var(--color-soft)" strokeWidth="1.5" />
          ))}
        </svg>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="pop" align="start" side="right" sideOffset={4}>
          {items.map(([label, work, off]) => (
            <DropdownMenu.Item key={label} disabled={off} onSelect={work}>
              {label}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Differences({ editing, view }: { editing: Editing; view: SavedView }) {
  const { slug, revision } = editing.study;
  const found = useQuery({
    queryKey: ["differences", slug, revision, view.id],
    queryFn: () =>
      answered(
        http.GET("/api/studies/{slug}/views/{first}/differences/{second}", {
          params: { path: { slug, first: view.id, second: "desk" } },
        }),
      ),
  });
  if (!found.data) return <p className="quiet">Comparing …</p>;
  if (!found.data.length) return <p>Nothing: the two draw the same.</p>;
  return (
    <table className="w-full text-left">
      <thead>
        <tr>
          <th className="label pr-4">What</th>
          <th className="label pr-4">Saved</th>
          <th className="label">On the desk</th>
        </tr>
      </thead>
      <tbody>
        {found.data.map((row) => (
          <tr key={row.what} className="border-t border-hairline">
            <td className="py-1 pr-4">{row.what}</td>
            <td className="py-1 pr-4">{row.first}</td>
            <td className="py-1">{row.second}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function ViewPicture({ editing, id }: { editing: Editing; id: string }) {
  const { study } = editing;
  const saved = study.document.views.find((v) => v.id === id);
  const look = JSON.stringify([
    study.model.version,
    saved,
    study.document.finishes.find((f) => f.id === saved?.finish),
    study.document.name,
  ]);
  // A drag ends before its picture is asked for; until then, and until it is drawn, the one before stays.
  const [asked, setAsked] = useState({ look, revision: study.revision });
  useEffect(() => {
    const later = setTimeout(
      () => setAsked((before) => (before.look === look ? before : { look, revision: study.revision })),
      1200,
    );
    return () => clearTimeout(later);
  }, [look, study.revision]);
  const { src } = usePicture(`/api/studies/${study.slug}/views/${id}/picture?of=${asked.revision}`, {
    method: "POST",
    every: 700,
  });
  return (
    <span className="block h-[40px] w-[56px] shrink-0 bg-sheet outline outline-1 outline-hairline">
      {src && <img src={src} alt="" className="h-full w-full object-cover" />}
    </span>
  );
}

/** A small plan of the model's extent with each view's mark where its cut or its viewer stands. */
function KeyPlan({ editing }: { editing: Editing }) {
  const { low, high } = editing.study.model as { low: Vec; high: Vec };
  const w = high[0] - low[0];
  const h = high[1] - low[1];
  const span = Math.max(w, h) * 1.15;
  const [cx, cy] = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2];
  const view = editing.study.document.desk.view;
  const x = (v: number) => 95 + ((v - cx) / span) * 120;
  const y = (v: number) => 62 - ((v - cy) / span) * 120;
  const inside = (v: number, a: number, b: number) => Math.min(b, Math.max(a, v));
  const turn = bearing(view.projection);
  const eye = view.projection.kind === "perspective" ? (view.projection.eye as Vec) : null;
  const cuts = (view.cuts ?? []).filter((c) => Math.abs((c.normal as Vec)[2]) < 0.9);
  const at: [number, number] = eye
    ? [inside(x(eye[0]), 14, 176), inside(y(eye[1]), 14, 110)]
    : turn === undefined
      ? [x(cx), y(cy)]
      : [
          inside(x(cx - (Math.sin((turn * Math.PI) / 180) * w) / 1.5), 16, 174),
          inside(y(cy - (Math.cos((turn * Math.PI) / 180) * h) / 1.5), 16, 108),
        ];
  return (
    <svg viewBox="0 0 190 124" className="mt-1 w-full" role="img" aria-label={`Key plan: ${view.name}`}>
      <rect
        x={x(low[0])}
        y={y(high[1])}
        width={x(high[0]) - x(low[0])}
        height={y(low[1]) - y(high[1])}
        fill="var(--color-sheet)"
        stroke="var(--color-hairline)"
      />
      {cuts.map((cut, i) => {
        const n = cut.normal as Vec;
        const p = cut.point as Vec;
        const d: [number, number] = [-n[1], n[0]];
        const reach = span * 0.55;
        const [mx, my] = Math.abs(n[0]) > Math.abs(n[1]) ? [p[0], cy] : [cx, p[1]];
        return (
          <line
            key={i}
            x1={x(mx - d[0] * reach)}
            y1={y(my - d[1] * reach)}
            x2={x(mx + d[0] * reach)}
            y2={y(my + d[1] * reach)}
            stroke={cut.role === "limit" ? "var(--color-soft)" : "var(--color-sanguine)"}
            strokeDasharray="9 3 2 3"
          />
        );
      })}
      <g transform={`translate(${at[0] - 14} ${at[1] - 14})`}>
        <SectionMark mark={editing.saved.mark} sight={turn} chosen />
      </g>
      <path d="M182 4l4 12-4-3-4 3z" fill="var(--color-soft)" />
    </svg>
  );
}
