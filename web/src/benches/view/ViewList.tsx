import { useEffect, useState } from "react";

import type { Editing } from "../../desk/study";
import { Leaf } from "../../shared/controls";
import { SectionMark } from "../../shared/signs";
import { bearing, type Vec } from "./camera";

/** Saved views as pictures, with their section marks, and where they stand on a key plan. */
export function ViewList({ editing }: { editing: Editing }) {
  const { study, saved } = editing;
  const [naming, setNaming] = useState<string | null>(null);
  const changed = JSON.stringify(study.document.desk.view) !== JSON.stringify(saved.view);
  return (
    <>
      <h2>Views</h2>
      <KeyPlan editing={editing} />
      <ul className="mt-1">
        {study.document.views.map((v) => {
          const chosen = v.id === saved.id;
          return (
            <li key={v.id} className="border-b border-hairline py-1.5">
              <button
                type="button"
                aria-pressed={chosen}
                className={`plain flex w-full items-center gap-2 ${chosen ? "font-semibold text-sanguine" : ""}`}
                onClick={() => void editing.act("open", { view_id: v.id })}
              >
                <ViewPicture editing={editing} id={v.id} />
                <span className="min-w-0 flex-1">
                  <span className="block leading-tight">{v.view.name}</span>
                  {chosen && changed && <span className="block text-xs font-normal text-ochre">changed, not saved</span>}
                </span>
                <SectionMark mark={v.mark} sight={bearing(v.view.projection)} chosen={chosen} />
              </button>
            </li>
          );
        })}
      </ul>
      <div className="mt-3 flex flex-wrap gap-2">
        <button type="button" className="line-act" disabled={!changed} onClick={() => void editing.act("save")}>
          Save again
        </button>
        <button type="button" className="line-act" onClick={() => setNaming(`${study.document.desk.view.name} 2`)}>
          Keep as new …
        </button>
        <button type="button" className="line-act" disabled={!changed} onClick={() => void editing.act("open", { view_id: saved.id })}>
          Back to saved
        </button>
        <button
          type="button"
          className="line-act"
          disabled={study.document.views.length < 2}
          onClick={() => void editing.act("remove", { view_id: saved.id })}
        >
          Remove
        </button>
      </div>
      <Leaf open={naming !== null} onClose={() => setNaming(null)} title="Keep as a new view" about="The view on the desk is kept under its own name and mark. The one it began from stays as it was saved.">
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void editing.act("keep", { name: naming ?? "" });
            setNaming(null);
          }}
        >
          <label className="label" htmlFor="new-view">
            Name
          </label>
          <input id="new-view" className="field w-full" value={naming ?? ""} autoFocus onChange={(e) => setNaming(e.target.value)} />
          <div className="mt-5 flex justify-end gap-3">
            <button type="button" className="line-act" onClick={() => setNaming(null)}>
              Leave it
            </button>
            <button type="submit" className="act" disabled={!naming?.trim()}>
              Keep view
            </button>
          </div>
        </form>
      </Leaf>
    </>
  );
}

function ViewPicture({ editing, id }: { editing: Editing; id: string }) {
  const { study } = editing;
  const [src, setSrc] = useState<string | null>(null);
  const look = JSON.stringify([study.document.views.find((v) => v.id === id), study.document.pens, study.document.poche]);
  useEffect(() => {
    let current = true;
    let timer: ReturnType<typeof setTimeout>;
    const ask = async (wait: number) => {
      try {
        const answer = await fetch(`/api/studies/${study.slug}/views/${id}/picture`);
        if (!current) return;
        if (answer.status === 200) {
          const address = URL.createObjectURL(await answer.blob());
          setSrc((before) => (before && URL.revokeObjectURL(before), address));
        } else if (answer.status === 204) timer = setTimeout(() => void ask(Math.min(wait * 1.4, 5000)), wait);
      } catch {
        // The picture before stays; the next change asks again.
      }
    };
    // A drag ends before its picture is asked for.
    timer = setTimeout(() => void ask(700), src ? 1200 : 50);
    return () => {
      current = false;
      clearTimeout(timer);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [look, study.slug, id]);
  return (
    <span className="block h-[46px] w-[65px] shrink-0 bg-sheet outline outline-1 outline-hairline">
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
      : [inside(x(cx - (Math.sin((turn * Math.PI) / 180) * w) / 1.5), 16, 174), inside(y(cy - (Math.cos((turn * Math.PI) / 180) * h) / 1.5), 16, 108)];
  return (
    <svg viewBox="0 0 190 124" className="mt-1 w-full" role="img" aria-label={`Key plan: ${view.name}`}>
      <rect x={x(low[0])} y={y(high[1])} width={x(high[0]) - x(low[0])} height={y(low[1]) - y(high[1])} fill="var(--color-sheet)" stroke="var(--color-hairline)" />
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
